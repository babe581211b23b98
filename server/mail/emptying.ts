import { and, asc, eq, inArray, lte, sql } from 'drizzle-orm'
import { recordAct } from '../acts/record'
import { visibleTo } from '../access/copy-access'
import type { Asker } from '../access/roles'
import { db, jobsDb } from '../db/client'
import { acts, copies } from '../db/schema'
import type { JobKind } from '../jobs/kinds'
import { addJob } from '../jobs/store'
import { Problem } from '../platform/problem'
import { eraseRows, NOT_ASKED_FOR } from './erasing'
import type { Begun } from './many-job'

/** What is erased for good: all of a lane, or what came from some senders. */
export interface Emptying {
  lane: 'bin' | 'spam'
  senders?: string[]
  /** So many messages were seen that would be gone. */
  count: number
}

const AT_ONCE = 100

function which(asker: Asker, { lane, senders }: Pick<Emptying, 'lane' | 'senders'>) {
  return and(visibleTo(asker), eq(copies.lane, lane), senders ? inArray(copies.senderAddress, senders) : undefined, NOT_ASKED_FOR)
}

/**
 * Begins to erase what lies in the bin or in spam, once the number of messages was said that would be gone. There is no way back;
 * what comes there later, and what somebody asks for, stays.
 */
export async function beginEmptying(asker: Asker, { count, ...what }: Emptying): Promise<Begun> {
  return db().transaction(async (tx) => {
    const seenAt = new Date()
    const [here] = await tx
      .select({ n: sql<number>`count(*)::int` })
      .from(copies)
      .where(and(which(asker, what), lte(copies.laneSince, seenAt)))
    const n = here!.n
    if (n !== count) {
      const now = n === 1 ? 'There is one message now' : `There are ${n.toLocaleString('en')} messages now`
      const told = `${now}, and not ${count.toLocaleString('en')}. Look at them, and confirm by this number: ${n}.`
      throw new Problem(422, 'Mail would be gone for good', told, { fields: { count: `Write ${n}.` } })
    }
    const detail = { count: 0, lane: what.lane === 'bin' ? 'the bin' : 'spam' }
    const act = await recordAct(tx, { personId: asker.id, kind: 'cleared', detail })
    const payload = { ...what, seenAt: seenAt.toISOString() }
    return { act, job: await addJob(tx, { kind: 'emptying', payload, personId: asker.id, actId: act }) }
  })
}

/** Does it. @param findPerson who asked, as they may now; null where they are here no more */
export function emptyingJob(findPerson: (id: string) => Promise<Asker | null>): JobKind {
  return {
    async run(job) {
      const { seenAt, ...what } = job.payload as unknown as Omit<Emptying, 'count'> & { seenAt: string }
      const asker = job.personId === null ? null : await findPerson(job.personId)
      if (!asker) return
      // What is put there later, however old it is, was not counted when the number was said.
      const all = and(which(asker, what), lte(copies.laneSince, new Date(seenAt)))
      if (job.cursor === null) {
        const [count] = await jobsDb().select({ n: sql<number>`count(*)::int` }).from(copies).where(all)
        await job.setTotal(count!.n)
      }
      for (let more = true, round = Number(job.cursor?.round ?? 0); more && !(await job.isStopping()); round++) {
        await job.step(async (tx) => {
          const rows = await tx
            .select({ id: copies.id, messageId: copies.messageId })
            .from(copies)
            .where(all)
            .orderBy(asc(copies.id))
            .limit(AT_ONCE)
            .for('update')
          more = rows.length === AT_ONCE
          await eraseRows(tx, rows, `erased by ${asker.name}`)
          await tx
            .update(acts)
            .set({ detail: sql`jsonb_set(${acts.detail}, '{count}', to_jsonb((${acts.detail} ->> 'count')::int + ${rows.length}::int))` })
            .where(eq(acts.id, job.actId!))
          return { cursor: { round: round + 1 }, done: rows.length, moved: rows.length }
        })
      }
    },
  }
}
