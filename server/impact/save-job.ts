import { setTimeout as sleep } from 'node:timers/promises'
import { and, eq, sql } from 'drizzle-orm'
import { isWhole, type Impact, type Looked } from '#core/simulate'
import { db, type Tx } from '../db/client'
import { jobs } from '../db/schema'
import { JobRefused, type JobKind, type Running } from '../jobs/kinds'
import { Problem, PROBLEM_TYPES } from '../platform/problem'
import type { Preview } from '../policy/preview'
import { mustHaveSeen, needsCounting, previewOf, saveNow, type Changing, type SavedChanges } from './save-changes'
import { simulateNets } from './simulation'

/** What is kept of a job that counts all mail and saves. */
interface Payload {
  form?: Changing
}

/**
 * Counts a change over all of the mail in its scope, and saves it, or ends in what has to be seen first. Killed before it has saved it
 * begins anew; the change is saved together with the job's end, once.
 */
export const saveJob: JobKind = {
  async run(job) {
    const { form } = job.payload as Payload
    // It is saved, and what it came to is written down.
    if (!form) return
    try {
      await save(job, withDates(form))
    }
    catch (error) {
      if (error instanceof NotOurs) return
      if (!(error instanceof Problem)) throw error
      const { status, title, detail, type, fields, more } = error
      const seen = type === PROBLEM_TYPES.broad || type === PROBLEM_TYPES.erases
      throw new JobRefused({ status, title, detail, type, fields, more }, seen ? 'needsConfirmation' : 'failed')
    }
  },
}

/** The job was cancelled, or another process did it. */
class NotOurs extends Error {}

const LOOK_EVERY = 300

async function save(job: Running, form: Changing): Promise<void> {
  const preview = await previewOf(await job.actor(), form)
  if (needsCounting(preview, form)) {
    const impact = await counted(job, preview)
    if (!isWhole(impact)) return
    // By the ids of copies: what is written down outlives the mail.
    mustHaveSeen(impact, preview, form)
  }
  // With the rights that they have by now.
  const actor = await job.actor()
  const saved = await saveNow(actor, preview, form, (tx, done) => takeOver(tx, job.id, done))
  if (saved.eventId === null) await db().transaction(tx => takeOver(tx, job.id, saved))
}

/** @returns so far where it was cancelled meanwhile */
async function counted(job: Running, { net }: Preview): Promise<Impact> {
  const ending = new AbortController()
  let impact: Impact | undefined
  const counting = simulateNets(await job.actor(), [net], {
    signal: ending.signal,
    toSave: true,
    tell: ([so]) => void showProgress(job.id, so!).catch(() => undefined),
  }).then(([whole]) => (impact = whole))
  counting.catch(() => undefined)
  while (!impact && !ending.signal.aborted) {
    await Promise.race([counting, sleep(LOOK_EVERY)])
    if (!impact && (await job.isCancelled())) ending.abort()
  }
  return (await counting)!
}

async function showProgress(id: number, { looked, inScope }: Looked): Promise<void> {
  await db().update(jobs).set({ done: looked, total: inScope }).where(eq(jobs.id, id))
}

// Of two processes that take the job for theirs one saves; and what was cancelled is not saved.
async function takeOver(tx: Tx, id: number, saved: SavedChanges): Promise<void> {
  const mine = await tx
    .update(jobs)
    .set({ payload: {}, eventId: saved.eventId, result: { saved } })
    .where(and(eq(jobs.id, id), eq(jobs.state, 'running'), eq(jobs.stopping, false), sql`${jobs.payload} ? 'form'`))
    .returning({ id: jobs.id })
  if (!mine.length) throw new NotOurs()
}

// As JSON keeps it an instant is a text.
function withDates({ existing, ...form }: Changing): Changing {
  if (!existing) return form
  const { after, before, ...rest } = existing
  return { ...form, existing: { ...rest, ...(after ? { after: new Date(after) } : {}), ...(before ? { before: new Date(before) } : {}) } }
}
