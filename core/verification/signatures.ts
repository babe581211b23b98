import { domainToAscii, isAtOrBelow } from '../address'
import { utf8Text, type FieldBytes, type MethodResult } from '../message'
import { isAligned } from './alignment'
import { readTags, unfolded } from './tags'

/** How many signatures of a message are looked at. */
export const MAX_SIGNATURES = 10
/** A field is read up to this length: a signature by a key of 16,384 bits has some 3,500 characters. */
const MAX_FIELD = 8 * 1024
/** Longer than a name can be; what is beyond needs not be kept. */
const MAX_SELECTOR = 254
const MAX_SIGNED_NAMES = 200
/** Signatures by SHA-1 are not accepted any more (RFC 8301 3.1). */
const ALGORITHMS: readonly string[] = ['rsa-sha256', 'ed25519-sha256']
const CANONICAL = /^(?:simple|relaxed)(?:\/(?:simple|relaxed))?$/i
/** RFC 6376 3.1, with the underscore that some use. */
const SELECTOR = /^[a-z0-9_-]+(?:\.[a-z0-9_-]+)*$/
const REQUIRED = ['v', 'a', 'b', 'bh', 'd', 'h', 's'] as const

/** A DKIM-Signature field, before it is verified. */
export interface Signature {
  field: FieldBytes
  tags: ReadonlyMap<string, string>
  domain: string
  selector: string
  /** The domain of i=. */
  identity: string
  aligned: boolean
  /** Why it needs not be verified: its form is wrong. */
  problem: { result: MethodResult, reason: string } | null
}

/**
 * The signatures of a message that are looked at, ten at most: those of the From domain first, then as they come. Their form is
 * checked (RFC 6376 6.1.1).
 */
export function signaturesOf(fields: readonly FieldBytes[], fromDomain: string | null): { looked: Signature[], more: number } {
  const all = fields.filter(f => f.name === 'dkim-signature')
  // Only the domain is needed for the order, so that ten thousand fields cost no more than their length.
  const aligned: FieldBytes[] = []
  const others: FieldBytes[] = []
  for (const field of all) (isAligned(roughDomain(field), fromDomain, 'relaxed') ? aligned : others).push(field)
  const looked = [...aligned, ...others].slice(0, MAX_SIGNATURES).map(field => readSignature(field, fromDomain))
  return { looked, more: all.length - looked.length }
}

function roughDomain({ value }: FieldBytes): string | null {
  const found = /(?:^|;)\s*d\s*=\s*([^\s;]+)/.exec(value.slice(0, MAX_FIELD))
  return found && domainToAscii(found[1]!)
}

function readSignature(field: FieldBytes, fromDomain: string | null): Signature {
  // Domains may be UTF-8 (RFC 8616 3).
  const value = field.value.length > MAX_FIELD || /[;\s]{200}/.test(field.value) ? null : utf8Text(field.value)
  const tags = value === null ? null : readTags(value)
  const domain = domainToAscii(tags?.get('d') ?? '') ?? ''
  const identity = tags?.get('i')
  const read = {
    field,
    tags: tags ?? new Map<string, string>(),
    domain,
    selector: (tags?.get('s') ?? '').toLowerCase().slice(0, MAX_SELECTOR),
    identity: identity === undefined ? domain : (domainToAscii(identity.slice(identity.lastIndexOf('@') + 1)) ?? ''),
    aligned: isAligned(domain, fromDomain, 'relaxed'),
  }
  const reason = tags ? problemIn(tags, read) : 'the field is not a list of tags (RFC 6376 3.2), or is too long'
  return { ...read, problem: reason === null ? null : { result: 'permerror', reason } }
}

// RFC 6376 6.1.1, and what else would let a signature cover less than it seems to.
function problemIn(tags: Map<string, string>, { domain, selector, identity }: Pick<Signature, 'domain' | 'selector' | 'identity'>) {
  const missing = REQUIRED.find(name => !tags.get(name))
  if (missing) return `${missing}= is missing`
  if (tags.get('v') !== '1') return 'its version is not 1'
  const algorithm = tags.get('a')!.toLowerCase()
  if (algorithm === 'rsa-sha1') return 'SHA-1 is not accepted any more (RFC 8301)'
  if (!ALGORITHMS.includes(algorithm)) return `its algorithm is unknown: ${algorithm.slice(0, 40)}`
  if (!CANONICAL.test(tags.get('c') ?? 'simple')) return 'its canonicalization is unknown'
  if (domain === '') return 'd= is not a domain'
  if (!SELECTOR.test(selector)) return 's= is not a selector'
  if (!isAtOrBelow(identity, domain)) return 'i= is not within d='
  const signed = unfolded(tags.get('h')!).toLowerCase().split(':')
  if (!signed.includes('from')) return 'it does not cover From'
  if (signed.length > MAX_SIGNED_NAMES) return `it names more than ${MAX_SIGNED_NAMES} fields`
  if (!isDigits(tags.get('l')) || !isDigits(tags.get('t')) || !isDigits(tags.get('x'))) return 'l=, t= or x= is not a number'
  const methods = tags.get('q')?.split(':').map(m => m.trim().toLowerCase())
  return methods && !methods.includes('dns/txt') ? 'its key is not in DNS' : null
}

function isDigits(value: string | undefined): boolean {
  return value === undefined || /^\d{1,76}$/.test(value)
}
