import { and, asc, eq, gt, inArray, isNull, lt, sql } from 'drizzle-orm'
import { recordEvent } from '../audit/record'
import { jobsDb, type Tx } from '../db/client'
import { attempts, copies, jobs } from '../db/schema'
import type { JobKind, Progress } from '../jobs/kinds'
import { addJob } from '../jobs/store'
import { quarantineExpiry } from './quarantine-expiry'
import { eraseRows, hereBefore, NOT_ASKED_FOR } from './erase'

/** Days for which things are kept; null is for good. */
interface RetentionRun {
  bin: number | null
  spam: number | null
  attempts: number | null
}

const BATCH_SIZE = 100
const DAY = 24 * 3600_000
const KIND = 'retention'

/**
 * Erases what is older than the retention settings allow: copies in the bin and in spam (their envelopes stay), and attempts that
 * brought no message. This cannot be undone. Copies that have reached the longest wait of their quarantine are moved as its settings
 * say. Copies with an open release request stay.
 */
export function retentionJob(retention: () => Promise<RetentionRun>): JobKind {
  return {
    async run(job) {
      const { bin, spam, attempts: tries } = await retention()
      const parts = [
        ...(await quarantineExpiry()),
        ...(bin === null ? [] : [(tx: Tx) => clearLane(tx, 'bin', bin)]),
        ...(spam === null ? [] : [(tx: Tx) => clearLane(tx, 'spam', spam)]),
        ...(tries === null ? [] : [(tx: Tx) => clearAttempts(tx, new Date(Date.now() - tries * DAY))]),
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

async function clearLane(tx: Tx, lane: 'bin' | 'spam', days: number): Promise<number> {
  const before = new Date(Date.now() - days * DAY)
  const rows = await tx
    .select({ id: copies.id, messageId: copies.messageId })
    .from(copies)
    .where(and(eq(copies.lane, lane), hereBefore(before), NOT_ASKED_FOR))
    .orderBy(asc(copies.id))
    .limit(BATCH_SIZE)
    // Without SKIP LOCKED: a copy that is locked now would otherwise wait until the next daily run.
    .for('update')
  if (!rows.length) return 0
  await eraseRows(tx, rows, { kind: 'expired', lane, days })
  await recordEvent(tx, { personId: null, kind: 'purged', detail: { count: rows.length, days, lane } })
  return rows.length
}

async function clearAttempts(tx: Tx, before: Date): Promise<number> {
  const old = tx
    .select({ id: attempts.id })
    .from(attempts)
    .where(and(isNull(attempts.messageId), lt(attempts.at, before)))
    .limit(BATCH_SIZE * 10)
  return (await tx.delete(attempts).where(inArray(attempts.id, old)).returning({ id: attempts.id })).length
}

/** Asks for it, once a day, where anything is kept for a while only. */
export async function requestRetention(retention: () => Promise<RetentionRun>): Promise<void> {
  const { bin, spam, attempts: tries } = await retention()
  if (bin === null && spam === null && tries === null && !(await quarantineExpiry()).length) return
  // Once what is to be kept is said otherwise, a day is not waited for.
  const payload = { bin, spam, attempts: tries }
  const [lately] = await jobsDb()
    .select({ id: jobs.id })
    .from(jobs)
    .where(
      and(
        eq(jobs.kind, KIND),
        sql`${jobs.payload} = ${JSON.stringify(payload)}::jsonb`,
        gt(jobs.createdAt, new Date(Date.now() - DAY + 3600_000)),
      ),
    )
    .limit(1)
  if (!lately) await addJob(jobsDb(), { kind: KIND, key: 'daily', payload })
}
