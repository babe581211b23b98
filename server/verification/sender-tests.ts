import { hasPlainFrom, headerFields, leavesOf, mailboxes, ORGANISATION, type MethodsFound } from '#core'
import type { LookUp } from '#core/verification'
import { verificationSentence } from '#core/words'
import { counted } from '#core/wording'
import { invalid } from '../platform/problem'
import { dnsIsOff } from '../platform/variables'
import { activePolicy } from '../policy/active-policy'
import { dnsServers, serversFrom } from './dns-servers'
import { canVerifyNow, lookUpDomain, verifyOne } from './verification'

/** A message to be verified for whoever tries it. */
export interface SenderTest {
  /** As it was received (RFC 5322). */
  source: string
  /** The server that sent it; empty where it is not known. */
  client: string
  helo: string
  mailFrom: string
}

export interface SenderTestResult {
  words: string
  found: MethodsFound
  lookUps: LookUp[]
}

/** Verifies a pasted message as if it came now, and really asks DNS. */
export async function testSender({ source, client, helo, mailFrom }: SenderTest): Promise<SenderTestResult> {
  // Lines that were copied from a page end as the system ends them; a signature covers what SMTP transfers.
  const bytes = new TextEncoder().encode(source.replace(/\r?\n/g, '\r\n'))
  const envelope = {
    mailFrom: mailFrom || null, rcptTo: [], client: client || null, helo: helo || null, tls: false, user: null,
    receivedAt: new Date().toISOString(),
  }
  const verified = await verifyOne(bytes, envelope, { ownDomains: [], relays: [], ownNetworks: [] })
  const { authentication, lookUps, more } = verified!
  const from = mailboxes(headerFields(bytes), 'from')
  if (!from.length)
    throw invalid('This has no From field, so there is no sender to verify. Paste the whole source of a message, beginning with its header.', {
      'sender.source': 'No From field found.',
    })
  const plain = hasPlainFrom({ from, fromFields: 1, defects: [] })
  const sentence = verificationSentence(authentication, plain ? from[0]!.domainUnicode : null)!
  return {
    words: more ? `${sentence} ${counted(more, 'more signature was', 'more signatures were')} not looked at.` : sentence,
    found: authentication.found!,
    lookUps,
  }
}

export interface DomainTestResult {
  words: string[]
  lookUps: LookUp[]
}

/** What a domain publishes about its mail, in sentences. */
export async function testDomain(domain: string): Promise<DomainTestResult> {
  const { spf, dmarc, lookUps } = await lookUpDomain(domain)
  const silent = lookUps.some(l => l.name === domain && l.error === 'ETIMEOUT')
  return {
    words: [
      spf !== null
        ? `SPF: “${spf}”`
        : silent ? `SPF: DNS did not answer for ${domain}.` : `SPF: ${domain} does not say which servers are its own.`,
      dmarc === 'temperror'
        ? 'DMARC: DNS did not answer.'
        : dmarc === 'none'
          ? `DMARC: ${domain} has no policy.`
          : `DMARC: ${POLICIES[dmarc.policy]}. DKIM is compared ${dmarc.dkim === 'strict' ? 'exactly' : 'by organisation'}, `
            + `SPF ${dmarc.spf === 'strict' ? 'exactly' : 'by organisation'}.`,
      'DKIM: keys are found by the selector in a signature. Test a message to see them.',
    ],
    lookUps,
  }
}

const POLICIES = {
  none: 'mail that fails may be delivered',
  quarantine: 'mail that fails should be quarantined',
  reject: 'mail that fails should be refused',
}

/** Whether senders can be verified, and by which servers. */
export interface VerifyingView {
  /** The environment does not turn it off. */
  allowed: boolean
  working: boolean
  servers: string[]
  from: Awaited<ReturnType<typeof serversFrom>>
  /** The rule of the organisation that treats a DMARC failure as its domain asks; null where there is none. */
  dmarcRule: { id: string, name: string, enabled: boolean } | null
}

export async function verifyingView(): Promise<VerifyingView> {
  const { policy } = await activePolicy()
  const rule = policy.rules.find(r => r.owner === ORGANISATION && leavesOf(r.when).some(c => 'dmarcRequest' in c))
  return {
    allowed: !dnsIsOff(),
    working: await canVerifyNow(),
    servers: await dnsServers(),
    from: await serversFrom(),
    dmarcRule: rule ? { id: rule.id, name: rule.name, enabled: rule.state === 'enabled' } : null,
  }
}
