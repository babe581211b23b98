import { and, asc, eq, gt, inArray, isNull, lt, sql } from 'drizzle-orm'
import { recordAct } from '../acts/record'
import { jobsDb, type Tx } from '../db/client'
import { attempts, copies, jobs, messages, openedHtml, sources } from '../db/schema'
import type { JobKind, Progress } from '../jobs/kinds'
import { addJob } from '../jobs/store'

/** Days for which things are kept; null is for good. */
interface Keeping {
  bin: number | null
  attempts: number | null
}

const AT_ONCE = 100
const DAY = 24 * 3600_000
const KIND = 'keeping'

/**
 * Clears away what is older than it is to be kept: copies out of the bin, of which the record stays, and attempts by which no
 * message came in. Nothing of it comes back.
 */
export function keepingJob(keeping: () => Promise<Keeping>): JobKind {
  return {
    async run(job) {
      const { bin, attempts: tries } = await keeping()
      const before = (days: number) => new Date(Date.now() - days * DAY)
      const parts = [
        ...(bin === null ? [] : [(tx: Tx) => clearBin(tx, before(bin), bin)]),
        ...(tries === null ? [] : [(tx: Tx) => clearAttempts(tx, before(tries))]),
      ]
      for (const part of parts) {
        for (let more = true; more && !(await job.isStopping());) {
          await job.step(async (tx) => {
            const done = await part(tx)
            more = done > 0
            return { cursor: { round: Number(job.cursor?.round ?? 0) + 1 }, done } satisfies Progress
          })
        }
      }
    },
  }
}

async function clearBin(tx: Tx, before: Date, days: number): Promise<number> {
  const rows = await tx
    .select({ id: copies.id, messageId: copies.messageId })
    .from(copies)
    .where(and(eq(copies.lane, 'bin'), lt(copies.laneSince, before)))
    .orderBy(asc(copies.id))
    .limit(AT_ONCE)
    .for('update', { skipLocked: true })
  if (!rows.length) return 0
  await tx
    .update(copies)
    .set({
      lane: 'dropped',
      erased: true,
      laneSince: new Date(),
      movedBy: null,
      decided: `cleared out of the bin after ${days} ${days === 1 ? 'day' : 'days'}`,
      decidedOwner: null,
      version: sql`${copies.version} + 1`,
    })
    .where(
      inArray(
        copies.id,
        rows.map(r => r.id),
      ),
    )
  await eraseWhatIsNobodys(tx, [...new Set(rows.map(r => r.messageId))])
  await recordAct(tx, { personId: null, kind: 'cleared', detail: { count: rows.length, days } })
  return rows.length
}

// A message of which somebody still has a copy stays whole.
async function eraseWhatIsNobodys(tx: Tx, ids: readonly number[]): Promise<void> {
  const kept = await tx
    .selectDistinct({ id: copies.messageId })
    .from(copies)
    .where(and(inArray(copies.messageId, [...ids]), sql`${copies.lane} not in ('dropped', 'refused')`))
  const gone = ids.filter(id => !kept.some(k => k.id === id))
  if (!gone.length) return
  await tx.delete(sources).where(inArray(sources.messageId, gone))
  await tx.delete(openedHtml).where(inArray(openedHtml.messageId, gone))
  await tx
    .update(messages)
    .set({
      facts: sql`${messages.facts} || '{"segments": [], "headers": [], "links": [], "attachments": []}'::jsonb`,
      whole: false,
      searchText: sql`${messages.subject}`,
    })
    .where(inArray(messages.id, gone))
}

async function clearAttempts(tx: Tx, before: Date): Promise<number> {
  const old = tx
    .select({ id: attempts.id })
    .from(attempts)
    .where(and(isNull(attempts.messageId), lt(attempts.at, before)))
    .limit(AT_ONCE * 10)
  return (await tx.delete(attempts).where(inArray(attempts.id, old)).returning({ id: attempts.id })).length
}

/** Asks for it, once a day, where anything is kept for a while only. */
export async function askForKeeping(keeping: () => Promise<Keeping>): Promise<void> {
  const { bin, attempts: tries } = await keeping()
  if (bin === null && tries === null) return
  const [lately] = await jobsDb()
    .select({ id: jobs.id })
    .from(jobs)
    .where(and(eq(jobs.kind, KIND), gt(jobs.createdAt, new Date(Date.now() - DAY + 3600_000))))
    .limit(1)
  if (!lately) await addJob(jobsDb(), { kind: KIND, key: 'daily' })
}
