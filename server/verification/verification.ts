import type { Authentication, Envelope, Trust } from '#core'
import { hasThreads, runOn, type Pool } from '../platform/threads'
import { faultText, log } from '../platform/log'
import * as here from '../workers/verify'
import { dnsToAsk, isVerifying } from './dns-servers'

/** What is larger is hashed on a thread of its own. */
const LARGE = 1024 * 1024
/** As many times the time for look-ups a message waits at most, and is then taken all the same: a thread may be stuck. */
const MAX_WAIT = 5

/** What is known of a sender where it could not be verified at that time. */
const NOT_NOW: Authentication = { verdict: 'temperror', by: '', saidBy: null }

/** The parts of trust that verifying asks for: the rest would be copied to the thread with each message. */
function traceTrust({ ownDomains, relays, ownNetworks }: Trust): Trust {
  return { ownDomains, relays, ownNetworks }
}

/**
 * Verifies the sender of a message that comes in, off the thread that serves people. Null where there is nothing to verify: a trusted
 * relay says what it found, or it is from an own network, or verifying is off. Never rejects: mail is taken all the same.
 */
export async function verifyIncoming(bytes: Uint8Array, envelope: Envelope, trust: Trust): Promise<Authentication | null> {
  if (!(await isVerifying())) return null
  const { ms } = await dnsToAsk()
  let clock: ReturnType<typeof setTimeout> | undefined
  const late = new Promise<'late'>((resolve) => {
    clock = setTimeout(() => resolve('late'), MAX_WAIT * ms)
  })
  try {
    const verified = await Promise.race([verifyOne(bytes, envelope, trust), late])
    if (verified === 'late') log.error({ bytes: bytes.length }, 'a sender was not verified in time')
    return verified === 'late' ? NOT_NOW : (verified?.authentication ?? null)
  }
  catch (error) {
    log.error({ error: faultText(error) }, 'a sender could not be verified')
    return NOT_NOW
  }
  finally {
    clearTimeout(clock)
  }
}

/** The same with the look-ups that it took, under trust that may not be active. */
export async function verifyOne(bytes: Uint8Array, envelope: Envelope, trust: Trust): Promise<here.SenderVerified | null> {
  const { mailFrom, helo, client, receivedAt, user, rcptTo } = envelope
  const job: here.VerifyJob = {
    bytes,
    envelope: { mailFrom, helo, client, receivedAt, user, rcptTo },
    trust: traceTrust(trust),
    dns: await dnsToAsk(),
  }
  return onThread(bytes.length > LARGE ? 'verifyingLarge' : 'verifying', 'verify', here.verify, job)
}

function onThread<Job extends object, Found>(pool: Pool, name: string, direct: (job: Job) => Promise<Found>, job: Job): Promise<Found> {
  return hasThreads() ? runOn<Found>(pool, name, job) : direct(job)
}

/** What DNS says of a domain, for whoever tests it. */
export async function lookUpDomain(domain: string): Promise<here.DomainFound> {
  return onThread('verifying', 'lookUp', here.lookUp, { domain, dns: await dnsToAsk() })
}

/** How long it is believed whether DNS answers, in milliseconds. */
const BELIEVED = 60_000
let known: { servers: string, at: number, answers: Promise<boolean> } | null = null

/** Whether senders can be verified at present: it is on, and DNS answers. */
export async function canVerifyNow(): Promise<boolean> {
  if (!(await isVerifying())) return false
  const dns = await dnsToAsk()
  const key = dns.servers.join(' ')
  if (!known || known.servers !== key || Date.now() - known.at > BELIEVED)
    known = { servers: key, at: Date.now(), answers: onThread('verifying', 'answers', here.answers, dns).catch(() => false) }
  return known.answers
}
