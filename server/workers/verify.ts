import { attemptDirection, headerFields, normaliseIp, walkTrace, type Authentication, type Envelope, type Trust } from '#core'
import { findDmarc, isSpf, LookUps, saysNothingThere, verifySender, type DmarcPolicyFound, type LookUp, type Resolve } from '#core/verification'
import { DnsCache } from '../verification/dns-cache'
import { nodeChecks } from '../verification/node-checks'
import { lookUpAt, within } from '../verification/look-up'

/** A message whose sender is to be verified. */
export interface VerifyJob {
  bytes: Uint8Array
  envelope: Pick<Envelope, 'mailFrom' | 'helo' | 'client' | 'receivedAt' | 'user' | 'rcptTo'>
  trust: Trust
  dns: DnsAsked
}

/** Which DNS is asked, and for how long. */
export interface DnsAsked {
  /** Addresses; empty for the system's. */
  servers: readonly string[]
  /** Milliseconds for all look-ups of a message. */
  ms: number
}

/** What was found, and by which look-ups. */
export interface SenderVerified {
  authentication: Authentication
  lookUps: LookUp[]
  /** Signatures beyond those that were looked at. */
  more: number
}

/** Of the time for all look-ups of a message, how much the policy of its From domain has for itself. The others share the rest. */
const POLICY_SHARE = 0.4
/** How often a server may be asked in that time. */
const TRIES_IN_TIME = 3

const MAX_CACHES = 4
const caches = new Map<string, DnsCache>()

/** Looks up at these servers, with what was answered before. */
export function resolverFor({ servers, ms }: DnsAsked): Resolve {
  const key = `${ms} ${servers.join(' ')}`
  const there = caches.get(key)
  if (there) return there.resolve
  if (caches.size >= MAX_CACHES) caches.clear()
  const cache = new DnsCache(lookUpAt(servers, ms / TRIES_IN_TIME))
  caches.set(key, cache)
  return cache.resolve
}

/**
 * Verifies the sender of a message that comes in. Null where its authentication is known by other means: a trusted relay says what it
 * found, or the message is from an own network or a signed-in user. Many run at the same time on one thread: they mostly wait for DNS.
 */
export async function verify({ bytes, envelope, trust, dns }: VerifyJob): Promise<SenderVerified | null> {
  if (attemptDirection(envelope, trust) !== 'inbound') return null
  const { said, client } = walkTrace(headerFields(bytes), envelope.client, trust)
  if (said.length) return null
  const resolve = resolverFor(dns)
  // Behind a relay HELO is the relay's.
  const direct = client !== null && client === normaliseIp(envelope.client)
  return verifySender(
    { bytes, mailFrom: envelope.mailFrom, helo: direct ? envelope.helo : null, client, receivedAt: envelope.receivedAt },
    { policy: within(dns.ms * POLICY_SHARE, resolve), others: within(dns.ms * (1 - POLICY_SHARE), resolve) },
    nodeChecks,
  )
}

/** Whether DNS answers at all, be it that there is nothing. */
export async function answers(dns: DnsAsked): Promise<boolean> {
  try {
    await within(dns.ms * POLICY_SHARE, resolverFor(dns))('example', 'TXT')
    return true
  }
  catch (error) {
    return saysNothingThere(error)
  }
}

/** What DNS says of a domain. */
export interface DomainFound {
  /** Null where it has none; DNS may not have answered. */
  spf: string | null
  dmarc: DmarcPolicyFound
  lookUps: LookUp[]
}

/** Looks up what a domain publishes for senders. */
export async function lookUp({ domain, dns }: { domain: string, dns: DnsAsked }): Promise<DomainFound> {
  const lookUps = new LookUps(within(dns.ms, resolverFor(dns)))
  const texts = await lookUps.ask(domain, 'TXT').catch(() => [])
  const spf = texts.map(t => t.join('')).find(isSpf) ?? null
  return { spf, dmarc: await findDmarc(domain, lookUps), lookUps: lookUps.made }
}
