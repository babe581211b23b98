import { and, isNull, sql } from 'drizzle-orm'
import { leavesOf, makeAddress, ORGANISATION, ruleStops, type Condition } from '#core'
import { db } from '../db/client'
import { literally } from '../db/asking'
import { addresses, attempts, copies, people } from '../db/schema'
import { activePolicy } from '../policy/active-policy'
import type { VerifyingView } from '../verification/sender-tests'
import type { ListeningView } from './listening'
import type { Settings } from './settings-form'

/** Something without which a house does not work, or not well. */
export interface Missing {
  /** In which part of Settings it is fixed; by a ready rule, where it is one. */
  at: 'domains' | 'users' | 'trust' | 'verification' | 'mail' | 'time-and-address' | ReadyRule
  /** What, and what follows from it. */
  words: string
}

/** Rules that every organisation needs; each is offered, ready to save, by its name. */
export type ReadyRule = 'own-domain' | 'user-names'

const MAX_NAMED = 3

/** What a house lacks, the gravest first. */
export async function missingIn(
  { domains, relays, publicAddress }: Pick<Settings, 'domains' | 'relays' | 'publicAddress'>,
  { smtp }: Pick<ListeningView, 'smtp'>,
  { working }: Pick<VerifyingView, 'working'>,
): Promise<Missing[]> {
  const out: Missing[] = []
  if (!domains.length)
    out.push({
      at: 'domains',
      words: 'No own domain is configured: forged mail that claims to come from your organisation cannot be detected. Add your domains.',
    })
  const [{ n: here } = { n: 0 }] = await db()
    .select({ n: sql<number>`count(*)::int` })
    .from(people)
    .where(isNull(people.deactivatedAt))
  if (here < 2)
    out.push(
      { at: 'users', words: 'You are the only user. Mail is accepted only for addresses of users: add users.' },
    )
  const outside = await db()
    .selectDistinct({ shown: addresses.shown, address: addresses.address })
    .from(addresses)
    .where(domains.length ? and(...domains.map(d => sql`${addresses.address} not like ${`%@${literally(d)}`}`)) : sql`false`)
    .orderBy(addresses.address)
    .limit(MAX_NAMED + 1)
  if (outside.length) {
    const named = outside.slice(0, MAX_NAMED).map(a => a.shown).join(', ')
    const more = outside.length > MAX_NAMED ? ' and others' : ''
    const strange = [...new Set(outside.map(a => makeAddress(a.address).domain))].join(', ')
    out.push({ at: 'domains', words: `${named}${more}: not at one of your own domains. If ${strange} is yours, add it.` })
  }
  if (!relays.length && !working)
    out.push({
      at: 'verification',
      words:
        'Senders cannot be verified at present, and allow lists that count only verified senders have no effect. '
        + 'Enter a DNS server that answers, or add a trusted relay that verifies senders.',
    })
  out.push(...(await readyRules(domains)))
  if (!publicAddress)
    out.push({
      at: 'time-and-address',
      words: 'The web address is not set, so a link for a user begins with the address in the browser of the administrator who made it.',
    })
  const [mail] = await db().select({ id: copies.id }).from(copies).limit(1)
  const [tried] = mail ? [mail] : await db().select({ id: attempts.id }).from(attempts).limit(1)
  if (!mail)
    out.push({
      at: 'mail',
      words: tried
        ? 'No mail has been accepted yet, but a server tried to deliver: see the message log.'
        : `No mail has arrived yet. ${
          smtp?.reach === 'machine'
            ? 'The SMTP port can be reached only from this machine: open it to your network, or'
            : 'Route mail to the SMTP port, or'} import existing mail.`,
    })
  return out
}

async function readyRules(domains: readonly string[]): Promise<Missing[]> {
  const { policy } = await activePolicy()
  const asks = (is: (fact: Condition) => boolean) =>
    policy.rules.some(r => r.owner === ORGANISATION && r.state !== 'disabled' && ruleStops(r) && leavesOf(r.when).some(is))
  const out: Missing[] = []
  if (domains.length && !asks(c => 'defect' in c && c.defect === 'claims own domain'))
    out.push({
      at: 'own-domain',
      words: 'No rule stops mail from outside that claims to come from one of your own domains and is not verified.',
    })
  if (domains.length && !asks(c => 'userName' in c))
    out.push({ at: 'user-names', words: 'No rule stops mail from outside that shows the name of one of your users as its sender.' })
  return out
}
