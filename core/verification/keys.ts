import type { MethodResult } from '../message'
import { readTags, unfolded } from './tags'

/** Why a key cannot be used. */
export interface KeyProblem {
  result: MethodResult
  reason: string
}

export type KeyType = 'rsa' | 'ed25519'
type Bytes = Uint8Array<ArrayBuffer>

/** Public keys and signatures by them, by whatever computes. */
export interface SignatureChecks {
  /**
   * Reads a key: of RSA its SubjectPublicKeyInfo (DER), of Ed25519 its 32 bytes. Throws for what is none.
   * @returns with the length of its modulus in bits; null for Ed25519
   */
  read(type: KeyType, bytes: Bytes): Promise<{ key: unknown, bits: number | null }>
  /** Whether a signature over data is by that key: RSASSA-PKCS1-v1_5 with SHA-256, or Ed25519. */
  verify(type: KeyType, key: unknown, data: Bytes, signature: Bytes): boolean | Promise<boolean>
}

/** A key record that can be used (RFC 6376 3.6.1, RFC 8463). */
export interface SigningKey {
  type: KeyType
  key: unknown
  /** Flags of t=. */
  flags: readonly string[]
}

/** RFC 8301 3.2. */
export const MIN_KEY_BITS = 1024
const RSA = { name: 'RSASSA-PKCS1-v1_5', hash: 'SHA-256' }
const ED25519 = { name: 'Ed25519' }
const ED25519_BYTES = 32

/** By WebCrypto, which is wherever this runs. */
export const webChecks: SignatureChecks = {
  async read(type, bytes) {
    if (type === 'ed25519') return { key: await crypto.subtle.importKey('raw', bytes, ED25519, false, ['verify']), bits: null }
    const key = await crypto.subtle.importKey('spki', bytes, RSA, false, ['verify'])
    return { key, bits: (key.algorithm as unknown as { modulusLength: number }).modulusLength }
  },
  verify: (type, key, data, signature) => crypto.subtle.verify(type === 'rsa' ? RSA : ED25519, key as CryptoKey, signature, data),
}

type Known = Map<string, Promise<SigningKey | KeyProblem>>
/** To read a key costs far more than to verify by it, and the same few sign most mail. */
const knownBy = new WeakMap<SignatureChecks, Known>()
const MAX_KNOWN = 1000
/** One of 16,384 bits has some 3,000 characters. */
const MAX_RECORD = 8 * 1024

/** Reads a key record. */
export async function readKey(record: string, checks: SignatureChecks): Promise<SigningKey | KeyProblem> {
  if (record.length > MAX_RECORD) return wrong('its key is too long')
  const known: Known = knownBy.get(checks) ?? new Map()
  knownBy.set(checks, known)
  const there = known.get(record)
  if (there) return there
  if (known.size >= MAX_KNOWN) known.clear()
  const read = parse(record, checks)
  known.set(record, read)
  return read
}

async function parse(record: string, checks: SignatureChecks): Promise<SigningKey | KeyProblem> {
  const tags = readTags(record)
  if (!tags) return wrong('its key record is not a list of tags')
  const list = (name: string) => tags.get(name)?.split(':').map(v => v.trim().toLowerCase())
  if ((tags.get('v') ?? 'DKIM1') !== 'DKIM1') return wrong('the version of its key is unknown')
  if (list('h')?.includes('sha256') === false) return wrong('its key is not for SHA-256')
  const services = list('s')
  if (services && !services.includes('*') && !services.includes('email')) return wrong('its key is not for mail')
  const type = (tags.get('k') ?? 'rsa').toLowerCase()
  if (type !== 'rsa' && type !== 'ed25519') return wrong('the type of its key is unknown')
  const bytes = base64(unfolded(tags.get('p') ?? ''))
  if (bytes?.length === 0) return wrong('its key was revoked')
  if (!bytes) return wrong('its key is not valid')
  const flags = list('t') ?? []
  try {
    if (type === 'ed25519' && bytes.length !== ED25519_BYTES) return wrong('its key is not valid')
    const { key, bits } = await checks.read(type, bytes)
    if (bits !== null && bits < MIN_KEY_BITS) return { result: 'policy', reason: `its key has fewer than ${MIN_KEY_BITS} bits` }
    return { type, flags, key }
  }
  catch {
    // Whatever the bytes are, they are no key.
    return wrong('its key is not valid')
  }
}

function wrong(reason: string): KeyProblem {
  return { result: 'permerror', reason }
}

/** The bytes of base64; null where it is none. */
export function base64(text: string): Uint8Array<ArrayBuffer> | null {
  if (!/^[\w+/]*={0,2}$/.test(text)) return null
  try {
    const chars = atob(text)
    const bytes = new Uint8Array(chars.length)
    for (let i = 0; i < chars.length; i++) bytes[i] = chars.charCodeAt(i)
    return bytes
  }
  catch {
    return null
  }
}

/** Whether a signature over data is by that key (RFC 6376 3.3.2; RFC 8463 3: Ed25519 signs the hash). */
export async function isSignedBy({ type, key }: SigningKey, data: Bytes, signature: Bytes, checks: SignatureChecks): Promise<boolean> {
  const signed = type === 'rsa' ? data : new Uint8Array(await crypto.subtle.digest('SHA-256', data))
  return checks.verify(type, key, signed, signature)
}
