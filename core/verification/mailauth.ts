// eslint-disable-next-line @typescript-eslint/triple-slash-reference -- declarations of files without types
/// <reference path="./mailauth-files.d.ts" />
/*
 * The only place that knows mailauth 4.13.3: bodies (RFC 6376 3.4.3, 3.4.4), SPF (RFC 7208) and ARC (RFC 8617) are its. Its files are
 * named one by one: the main one also loads what fetches logos and policies. Keys are read and kept here (keys.ts): mailauth reads a key
 * twice for each signature, which costs more than all the rest.
 */
import { arc } from 'mailauth/lib/arc/index.js'
import { dkimBody } from 'mailauth/lib/dkim/body/index.js'
import { dkimVerify } from 'mailauth/lib/dkim/verify.js'
import { spf } from 'mailauth/lib/spf/index.js'
import type { MethodResult } from '../message'
import type { LookUps } from './dns'
import { MIN_KEY_BITS } from './keys'

/** Hashes a body; its lines end in CRLF. @param length l=, or null */
export function bodyHasher(canonical: string, length: number | null): (body: Uint8Array) => { hash: string, unsigned: number } {
  return (body) => {
    const hasher = dkimBody(canonical, 'sha256', length ?? '')
    hasher.update(body)
    const hash = hasher.digest('base64')
    return { hash, unsigned: length === null ? 0 : Math.max(0, hasher.canonicalizedLength - hasher.bodyHashedBytes) }
  }
}

/** A chain of ARC fields as it was read, its newest message signature verified. */
export interface ArcState {
  chain: false | object[]
  error?: Error
  lastEntry?: Record<string, { original: Uint8Array, parsed?: Record<string, { value?: string }> }>
}

export const NO_ARC: ArcState = { chain: false }

export async function arcStateOf(message: Uint8Array, lookUps: LookUps, now: Date): Promise<ArcState> {
  // Without a sender it would read Return-Path, which anybody can write.
  const options = { resolver: resolverOf(lookUps), minBitLength: MIN_KEY_BITS, curTime: now, sender: '<>' }
  const { arc: state } = (await dkimVerify(message as never, options as never)) as unknown as { arc: ArcState }
  return state
}

export function verifySeals(state: ArcState, lookUps: LookUps): Promise<{ status: { result: 'none' | 'pass' | 'fail' } }> {
  return arc(state as never, { resolver: resolverOf(lookUps), minBitLength: MIN_KEY_BITS } as never) as never
}

function resolverOf(lookUps: LookUps) {
  return (name: string, type: string) => lookUps.ask(name, type as 'TXT')
}

interface SpfAsked {
  sender: string
  ip: string
  helo: string
  mta: string
  resolver: (name: string, type: string) => Promise<unknown>
}

export function evaluateSpf(asked: SpfAsked): Promise<{ domain: string, status: { result: Exclude<MethodResult, 'policy'> } }> {
  return spf(asked as never) as never
}
