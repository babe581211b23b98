import ipaddr from 'ipaddr.js'
import { readDate } from './dates'
import { parseAuthenticationResults, type AuthResults } from './authentication'
import type { RawField } from './structure'
import type { Trust } from './types'

/** A client address in one spelling: IPv4-mapped IPv6 becomes IPv4. Null for what is no address. */
export function normaliseIp(text: string | null | undefined): string | null {
  const bare =
    text
      ?.slice(0, 200)
      .trim()
      .replace(/^\[|\]$/g, '')
      .replace(/^IPv6:/i, '')
      .split('%')[0] ?? ''
  return ipaddr.isValid(bare) ? ipaddr.process(bare).toString() : null
}

type Parsed = ReturnType<typeof ipaddr.process>

/** What was parsed before: the same few networks and clients are asked for every message. */
const addresses = new Map<string, Parsed | null>()
const networks = new Map<string, [base: Parsed, bits: number] | null>()
const MAX_KNOWN = 1000

function remembered<T>(known: Map<string, T>, text: string, parse: () => T): T {
  const there = known.get(text)
  if (there !== undefined) return there
  if (known.size >= MAX_KNOWN) known.clear()
  const made = parse()
  known.set(text, made)
  return made
}

function addressOf(ip: string): Parsed | null {
  return remembered(addresses, ip, () => (ipaddr.isValid(ip) ? ipaddr.process(ip) : null))
}

function networkOf(network: string): [base: Parsed, bits: number] | null {
  return remembered(networks, network, () => {
    try {
      if (network.includes('/')) return ipaddr.parseCIDR(network)
      const base = ipaddr.process(network)
      return [base, fullLength(base)]
    }
    catch {
      return null
    }
  })
}

function fullLength(address: Parsed): number {
  return address.kind() === 'ipv4' ? 32 : 128
}

/** True if the address lies in the CIDR network (or equals the single address). Invalid text is in no network. */
export function inNetwork(ip: string, network: string): boolean {
  const address = addressOf(ip)
  const [base, bits] = networkOf(network) ?? []
  return address !== null && base !== undefined && base.kind() === address.kind() && address.match(base, bits!)
}

/** A CIDR network in one spelling, its host bits cleared; a single address gets its full length. Null for what is none. */
export function canonicalNetwork(text: string): string | null {
  try {
    const [address, bits] = text.includes('/') ? ipaddr.parseCIDR(text.trim()) : [ipaddr.process(text.trim()), null]
    const length = bits ?? fullLength(address)
    const bytes = address.toByteArray()
    for (let i = 0; i < bytes.length; i++) bytes[i]! &= maskByte(length, i)
    return `${ipaddr.fromByteArray(bytes).toString()}/${length}`
  }
  catch {
    return null
  }
}

/** The bits of byte `i` that a prefix of that length covers. */
function maskByte(length: number, i: number): number {
  const covered = Math.max(0, Math.min(8, length - i * 8))
  return (0xff << (8 - covered)) & 0xff
}

/** The bytes of an address, four or sixteen; null for what is none. */
export function ipBytes(ip: string): number[] | null {
  return ipaddr.isValid(ip) ? ipaddr.process(ip).toByteArray() : null
}

/** The address in the from clause of a Received field, and its date as an ISO 8601 instant (RFC 5321 4.4). */
export function parseReceived(value: string): { from: string | null, date: string | null } {
  const field = value.slice(0, LONGEST_RECEIVED)
  const semicolon = field.lastIndexOf(';')
  const words = (semicolon < 0 ? field : field.slice(0, semicolon)).trim().split(/\s+/)
  const by = words.findIndex(w => w.toLowerCase() === 'by')
  const fromClause = words[0]?.toLowerCase() === 'from' ? words.slice(1, by < 0 ? undefined : by).join(' ') : ''
  const literals = [...fromClause.matchAll(/\[(?:IPv6:)?([0-9a-f:.]{1,60})\]/gi)]
  return {
    // The last literal: the first may be a HELO name that the client chose itself.
    from: normaliseIp(literals.at(-1)?.[1]),
    date: semicolon < 0 ? null : readDate(field.slice(semicolon + 1)),
  }
}

const LONGEST_RECEIVED = 4000

/** A machine that handed a message on, and what it wrote into the header. */
export interface Hop {
  client: string | null
  /** The authserv-ids of the trusted relays whose networks have it; empty where it is none of them. */
  authservIds: string[]
  /** Above its Received field, under one of these names. */
  said: AuthResults[]
  /** Above its Received field, under other names. */
  others: AuthResults[]
  /** It wrote a Received field. */
  received: boolean
}

/** The machines on the way of a message from us back to the first that is no trusted relay, or wrote no Received field. */
export function hopsOf(fields: readonly RawField[], client: string | null, trust: Pick<Trust, 'relays'>): Hop[] {
  const hops: Hop[] = []
  let at = 0
  let next = normaliseIp(client)
  for (;;) {
    const here = next
    const authservIds = here === null ? [] : trust.relays.filter(r => inNetwork(here, r.network)).map(r => r.authservId.toLowerCase())
    const hop: Hop = { client: here, authservIds, said: [], others: [], received: false }
    hops.push(hop)
    if (!authservIds.length) return hops
    for (; at < fields.length && !hop.received; at++) {
      const field = fields[at]!
      const name = field.name.toLowerCase()
      if (name === 'received') {
        hop.received = true
        next = parseReceived(field.value).from
      }
      if (name !== 'authentication-results') continue
      const results = parseAuthenticationResults(field.value)
      if (results) (authservIds.includes(results.authservId) ? hop.said : hop.others).push(results)
    }
    if (!hop.received) return hops
  }
}

/**
 * Walks back through our own relays. Authentication-Results count only from a configured relay and above that relay's
 * Received field (RFC 8601 section 5): anything below it came with the message, and anybody can write that.
 * @returns the results that count, and the first hop outside the relays.
 */
export function walkTrace(
  fields: readonly RawField[],
  client: string | null,
  trust: Pick<Trust, 'relays'>,
): { said: AuthResults[], client: string | null } {
  const hops = hopsOf(fields, client, trust)
  // A relay that writes no Received field gives nothing to stop at; then none of its results can be told from forged ones.
  return { said: hops.filter(h => h.received).flatMap(h => h.said), client: hops.at(-1)!.client }
}
