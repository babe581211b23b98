import { and, eq, inArray, ne, sql, type SQL } from 'drizzle-orm'
import type { Copy } from '../access/copy-access'
import type { Tx } from '../db/client'
import { copies, releaseRequests } from '../db/schema'

/**
 * Takes hold of the copies that requests are about. Whoever lets a copy out holds it before its requests: who begins with the
 * requests would wait for that hand while it waits for them.
 */
export async function holdCopiesOf(tx: Tx, which: SQL | undefined): Promise<void> {
  const about = tx.select({ id: releaseRequests.copyId }).from(releaseRequests).where(which)
  await tx.select({ id: copies.id }).from(copies).where(inArray(copies.id, about)).orderBy(copies.id).for('update')
}

/** How requests are answered. */
interface Answered {
  state: 'released' | 'declined'
  /** The act that answers them. */
  eventId: number
  by: string | null
  reason?: string
}

/** What was asked for has been let out or rejected, by whatever hand: whoever asked is told. */
export async function answerRequestsFor(
  tx: Tx,
  rows: readonly Pick<Copy, 'id'>[],
  { state, eventId, by, reason }: Answered,
): Promise<void> {
  if (!rows.length) return
  const ids = rows.map(c => c.id)
  await tx
    .update(releaseRequests)
    .set({ state, eventId, answeredBy: by, answeredAt: new Date(), reason: reason ?? null, seenAt: null })
    .where(and(inArray(releaseRequests.copyId, ids), eq(releaseRequests.state, 'open')))
}

/** What an event answered waits for an answer again, where nobody has asked anew. */
export async function reopenRequestsOf(tx: Tx, eventId: number): Promise<void> {
  const again = await tx
    .update(releaseRequests)
    .set({ state: 'open', eventId: null, answeredBy: null, answeredAt: null, reason: null, seenAt: null })
    .where(
      and(
        eq(releaseRequests.eventId, eventId),
        ne(releaseRequests.state, 'open'),
        sql`not exists (
          select 1 from release_requests o
          where o.copy_id = ${releaseRequests.copyId} and o.person_id = ${releaseRequests.personId} and o.state = 'open')`,
      ),
    )
    .returning({ id: releaseRequests.copyId })
  await toBeRanked(tx, again.map(r => r.id))
}

/** Where copies stand in their review follows from whether they are asked for. */
export async function toBeRanked(tx: Tx, ids: readonly number[]): Promise<void> {
  if (ids.length) await tx.update(copies).set({ rankedAt: null }).where(inArray(copies.id, [...ids]))
}
