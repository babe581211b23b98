import { and, isNull, sql } from 'drizzle-orm'
import { makeAddress } from '#core'
import { db } from '../db/client'
import { literally } from '../db/asking'
import { addresses, attempts, copies, people } from '../db/schema'
import type { Settings } from './settings-form'

/** Something without which a house does not work, or not well. */
export interface Missing {
  /** Where on the page it is fixed. */
  at: 'domains' | 'people' | 'trust' | 'mail'
  /** What, and what follows from it. */
  words: string
}

const MAX_NAMED = 3

/** What a house lacks, the gravest first. */
export async function missingIn({ domains, relays }: Pick<Settings, 'domains' | 'relays'>): Promise<Missing[]> {
  const out: Missing[] = []
  if (!domains.length)
    out.push({ at: 'domains', words: 'No domain is ours yet, so nobody is told when a stranger writes in our name.' })
  const [{ n: here } = { n: 0 }] = await db()
    .select({ n: sql<number>`count(*)::int` })
    .from(people)
    .where(isNull(people.deactivatedAt))
  if (here < 2)
    out.push(
      { at: 'people', words: 'You are alone here: mail is taken only for addresses that belong to somebody. Invite the first people.' },
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
    out.push({ at: 'domains', words: `${named}${more}: these people’s addresses are at no domain of ours. If ${strange} is ours, add it.` })
  }
  if (!relays.length)
    out.push({
      at: 'trust',
      words:
        'Nothing verifies senders yet, so no allow entry of the organisation counts. Name the relay that checks who mail comes from, and '
        + 'the name under which it says so.',
    })
  const [mail] = await db().select({ id: copies.id }).from(copies).limit(1)
  const [tried] = mail ? [mail] : await db().select({ id: attempts.id }).from(attempts).limit(1)
  if (!mail)
    out.push({
      at: 'mail',
      words: tried
        ? 'No mail has been taken yet, but somebody tried to hand some over: see under Mail what was answered.'
        : 'No mail has come yet. Let it be handed over to the port below, or import what is there.',
    })
  return out
}
