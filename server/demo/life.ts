import { and, desc, eq, sql } from 'drizzle-orm'
import { db } from '../db/client'
import { copies, releaseRequests } from '../db/schema'
import { requestRelease } from '../requests/requests'
import { findPerson } from '../users/people'

/** Days for which mail counts as having been here when the demo is loaded: some of it is about to leave. */
const HERE_FOR = 26
const INVOICES = 'accounts@quayline.example'
const NOTES = [
  'Our chandler’s invoice, I think. Payment is due on Friday.',
  'They phoned about it. It is the one for the mooring lines.',
  'This is the third that does not come. Please let them in.',
]

/** The archive has been here for a while: what is thrown away after a month begins to go in a few days. */
export async function ageMail(): Promise<void> {
  await db().execute(sql`
    update messages m set created_at = greatest(least(now(), a.at), now() - make_interval(days => ${HERE_FOR}))
    from attempts a where a.message_id = m.id`)
}

/** A chandler's honest invoices are held, and three recipients ask for one each. */
export async function requestSome(): Promise<void> {
  const [there] = await db().select({ id: releaseRequests.id }).from(releaseRequests).limit(1)
  if (there) return
  const held = await db()
    .select({ id: copies.id, personId: copies.personId })
    .from(copies)
    .where(and(eq(copies.lane, 'quarantine'), eq(copies.senderAddress, INVOICES)))
    .orderBy(desc(copies.receivedAt), desc(copies.id))
  const first = new Map(held.flatMap(h => (h.personId ? [[h.personId, h.id] as const] : [])).reverse())
  for (const [i, [personId, id]] of [...first].slice(0, NOTES.length).entries()) {
    const actor = await findPerson(personId)
    if (actor) await requestRelease(actor, [id], NOTES[i]!)
  }
}
