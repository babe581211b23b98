import { and, asc, eq, inArray, sql } from 'drizzle-orm'
import { counted, numberWords, plural } from '#core/wording'
import { countMore, recordEvent } from '../audit/record'
import { visibleTo } from '../access/copy-access'
import type { Actor } from '../access/roles'
import { jobsDb, longDb } from '../db/client'
import { LOCK_NUMBERS } from '../db/lock-numbers'
import { auditEventItems, copies } from '../db/schema'
import type { JobKind } from '../jobs/kinds'
import { addJob } from '../jobs/store'
import { Problem } from '../platform/problem'
import { eraseRows, NOT_ASKED_FOR } from './erase'
import type { StartedJob } from '../copies/many-job'

/** What is erased for good: all of a lane, or what came from some senders. */
export interface Purge {
  lane: 'bin' | 'spam'
  senders?: string[]
  /** So many messages were seen that would be gone. */
  count: number
}

const BATCH_SIZE = 100
const NOT_BEING_DELETED = sql`not exists (
  select 1 from audit_event_items i join jobs j on j.event_id = i.event_id
  where i.copy_id = copies.id and j.kind = 'purge' and j.state in ('waiting', 'running'))`

function which(actor: Actor, { lane, senders }: Pick<Purge, 'lane' | 'senders'>) {
  return and(visibleTo(actor), eq(copies.lane, lane), senders ? inArray(copies.senderAddress, senders) : undefined, NOT_ASKED_FOR)
}

/**
 * Begins to erase what lies in the bin or in spam, once the number of messages was said that would be gone. There is no way back:
 * exactly what was counted is erased, as it was. What comes or is put there later, what anybody touches meanwhile, and what somebody
 * asks for, stays.
 */
export async function beginPurge(actor: Actor, { count, ...what }: Purge): Promise<StartedJob> {
  return longDb().transaction(async (tx) => {
    await tx.execute(sql`select pg_advisory_xact_lock(${LOCK_NUMBERS.deletion})`)
    // What another one is deleting already is not counted: pressed twice, it is one deletion and one event.
    const free = and(which(actor, what), NOT_BEING_DELETED)
    const [here] = await tx.select({ n: sql<number>`count(*)::int` }).from(copies).where(free)
    mustBe(count, here!.n)
    const detail = { count: 0, lane: what.lane }
    const eventId = await recordEvent(tx, { personId: actor.id, kind: 'purged', detail })
    const { rowCount } = await tx.execute(sql`
      insert into audit_event_items (event_id, copy_id, before)
      select ${eventId}::bigint, copies.id, jsonb_build_object('lane', lane, 'version', version) from copies where ${free}`)
    // Something may have come between the two.
    mustBe(count, rowCount ?? 0)
    return { eventId, job: await addJob(tx, { kind: 'purge', payload: { ...what }, personId: actor.id, eventId: eventId }) }
  })
}

function mustBe(count: number, n: number): void {
  if (n === count) return
  if (!n) throw new Problem(409, 'Nothing to delete', 'These messages are already being deleted, or no longer exist. Reload the page.')
  const now = `There ${plural(n, 'is', 'are')} now ${counted(n, 'message')}`
  const result = `${now}, not ${numberWords(count)}. Check them, then type the number ${n} to confirm.`
  throw new Problem(422, 'Mail would be deleted permanently', result, { fields: { count: `Type ${n}.` } })
}

/** Does it, each step with the rights that its actor has by then. */
export const purgeJob: JobKind = {
  async run(job) {
    const what = job.payload as unknown as Omit<Purge, 'count'>
    const ofThisJob = eq(auditEventItems.eventId, job.eventId!)
    if (job.cursor === null) {
      const [count] = await jobsDb().select({ n: sql<number>`count(*)::int` }).from(auditEventItems).where(ofThisJob)
      await job.setTotal(count!.n)
    }
    for (let more = true, round = Number(job.cursor?.round ?? 0); more && !(await job.isStopping()); round++) {
      await job.step(async (tx, actor) => {
        const rows = await tx
          .select({ id: copies.id, messageId: copies.messageId })
          .from(copies)
          .innerJoin(auditEventItems, eq(auditEventItems.copyId, copies.id))
          .where(and(ofThisJob, which(actor!, what), sql`${copies.version} = (${auditEventItems.before} ->> 'version')::int`))
          .orderBy(asc(copies.id))
          .limit(BATCH_SIZE)
          .for('update', { of: copies })
        more = rows.length === BATCH_SIZE
        await eraseRows(tx, rows, { kind: 'erased', by: actor!.name })
        await countMore(tx, job.eventId!, rows.length)
        return { cursor: { round: round + 1 }, done: rows.length, moved: rows.length }
      })
    }
  },
}
