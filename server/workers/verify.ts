import { attemptDirection, headerFields, normaliseIp, walkTrace, type Authentication, type Envelope, type Trust } from '#core'
import { findDmarc, LookUps, verifySender, type DmarcPolicyFound, type LookUp, type Resolve } from '#core/verification'
import { DnsCache } from '../verification/dns-cache'
import { nodeChecks } from '../verification/node-checks'
import { lookUpAt, within } from '../verification/look-up'

/** A message whose sender is to be verified. */
export interface VerifyJob {
  bytes: Uint8Array
  envelope: Pick<Envelope, 'mailFrom' | 'helo' | 'client' | 'receivedAt' | 'user' | 'rcptTo'>
  trust: Trust
  /** DNS servers; empty for the system's. */
  servers: readonly string[]
}

/** What was found, and by which look-ups. */
export interface SenderVerified {
  authentication: Authentication
  lookUps: LookUp[]
  /** Signatures beyond those that were looked at. */
  more: number
}

/** Milliseconds for the look-ups of a message: for the policy of its From domain, and for all others together. */
const POLICY_MS = 1200
const OTHERS_MS = 1800

const MAX_CACHES = 4
const caches = new Map<string, DnsCache>()

/** Looks up at these servers, with what was answered before. */
export function resolverFor(servers: readonly string[]): Resolve {
  const key = servers.join(' ')
  const there = caches.get(key)
  if (there) return there.resolve
  if (caches.size >= MAX_CACHES) caches.clear()
  const cache = new DnsCache(lookUpAt(servers))
  caches.set(key, cache)
  return cache.resolve
}

/**
 * Verifies the sender of a message that comes in. Null where its authentication is known by other means: a trusted relay says what it
 * found, or the message is from an own network or a signed-in user. Many run at the same time on one thread: they mostly wait for DNS.
 */
export async function verify({ bytes, envelope, trust, servers }: VerifyJob): Promise<SenderVerified | null> {
  if (attemptDirection(envelope, trust) !== 'inbound') return null
  const { said, client } = walkTrace(headerFields(bytes), envelope.client, trust)
  if (said.length) return null
  const resolve = resolverFor(servers)
  // Behind a relay HELO is the relay's.
  const direct = client !== null && client === normaliseIp(envelope.client)
  return verifySender(
    { bytes, mailFrom: envelope.mailFrom, helo: direct ? envelope.helo : null, client, receivedAt: envelope.receivedAt },
    { policy: within(POLICY_MS, resolve), others: within(OTHERS_MS, resolve) },
    nodeChecks,
  )
}

/** Whether DNS answers at all, be it that there is nothing. */
export async function answers({ servers }: { servers: readonly string[] }): Promise<boolean> {
  try {
    await within(POLICY_MS, resolverFor(servers))('example', 'TXT')
    return true
  }
  catch (error) {
    return (error as { code?: string }).code !== 'ETIMEOUT'
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
export async function lookUp({ domain, servers }: { domain: string, servers: readonly string[] }): Promise<DomainFound> {
  const lookUps = new LookUps(within(OTHERS_MS, resolverFor(servers)))
  const texts = await lookUps.ask(domain, 'TXT').catch(() => [])
  const spf = texts.map(t => t.join('')).find(t => /^v=spf1(?: |$)/i.test(t)) ?? null
  return { spf, dmarc: await findDmarc(domain, lookUps), lookUps: lookUps.made }
}
