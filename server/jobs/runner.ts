import { EventEmitter } from 'node:events'
import { eq, sql } from 'drizzle-orm'
import isSame from 'fast-deep-equal'
import { Logger, run, runMigrations, type Runner, type WorkerEvents } from 'graphile-worker'
import { holdRights } from '../access/rights-lock'
import type { Actor } from '../access/roles'
import { jobsDb } from '../db/client'
import { jobs, type JobResult } from '../db/schema'
import { faultText, log } from '../platform/log'
import { JobRefused, PermanentJobError, jobKind, type Running } from './kinds'
import { endInterrupted, giveBackLocks, holdLock, letLockGo } from './locks'
import { queueJob, TASK, type Ended } from './store'

/** So many at a time in one process; they take turns for the threads with what else is done there. */
const BATCH_SIZE = 2
const POLL = 1000
/** Milliseconds between two searches for jobs that no process is running. */
const LOOK_EVERY = 10_000
/** Milliseconds that one person's job works before others have their turn. It goes on behind what waits by then. */
const SLICE = 5000

/** Finds a person by their id, as they are now; null where they are here no more. */
type FindActor = (id: string) => Promise<Actor | null>

let findActor: FindActor = async () => null
let runner: Runner | null = null
let stopping = false
/** Ids in the queue of the jobs that this process is running. */
const underWay = new Set<string>()
let clock: ReturnType<typeof setInterval> | undefined

// Its own way would be the console, which stops a process whose log cannot be written.
const logger = new Logger(() => (level, message) => {
  if (level === 'error') log.error({ queue: message }, 'the queue of jobs')
  else if (level === 'warning') log.warn({ queue: message }, 'the queue of jobs')
  else log.debug({ queue: message }, 'the queue of jobs')
})

/** Makes the tables of the queue, or brings them up to date. Several processes may do so at once. */
export async function migrateJobs(): Promise<void> {
  await runMigrations({ pgPool: jobsDb().$client, logger })
}

/** Does long work in this process, until `stopJobs`. @param find who asked for it */
export async function startJobs(find: FindActor): Promise<void> {
  findActor = find
  stopping = false
  const events: WorkerEvents = new EventEmitter()
  events.on('pool:create', ({ workerPool }) => void holdLock(workerPool.id))
  runner = await run({
    events,
    pgPool: jobsDb().$client,
    logger,
    noHandleSignals: true,
    concurrency: BATCH_SIZE,
    pollInterval: POLL,
    taskList: {
      async [TASK](payload, { job }) {
        underWay.add(job.id)
        await work((payload as { id: number }).id, job.attempts >= job.max_attempts).finally(() => underWay.delete(job.id))
      },
    },
  })
  // What a process that was killed had begun stays locked for hours otherwise.
  const lookAfter = async () => {
    await giveBackLocks([...underWay])
    await endInterrupted()
  }
  clock = setInterval(() => void lookAfter(), LOOK_EVERY)
  await lookAfter()
}

export async function stopJobs(): Promise<void> {
  stopping = true
  clearInterval(clock)
  const ending = runner
  runner = null
  await ending?.stop()
  await letLockGo()
}

async function work(id: number, isLast: boolean): Promise<void> {
  const [job] = await jobsDb()
    .update(jobs)
    .set({ state: 'running', startedAt: sql`coalesce(${jobs.startedAt}, now())`, error: null })
    .where(sql`${jobs.id} = ${id} and ${jobs.state} in ('waiting', 'running')`)
    .returning()
  // It was cancelled while it waited.
  if (!job) return
  const kind = jobKind(job.kind)
  if (!kind) return end(id, 'failed', `There is no job of the kind “${job.kind}”.`)
  try {
    const turn = { isOver: false }
    await kind.run(running(job, turn))
    const [now] = await jobsDb().select({ stopping: jobs.stopping }).from(jobs).where(eq(jobs.id, id))
    if (now?.stopping) return await end(id, 'cancelled', null)
    // This process ends; another one, or this one when it is there again, goes on where this one stopped.
    if (stopping || turn.isOver) await queueJob(jobsDb(), job)
    else await end(id, 'done', null)
  }
  catch (error) {
    if (error instanceof PermanentJobError) return await end(id, 'failed', error.message)
    if (error instanceof JobRefused) return await end(id, error.state, error.message, { problem: error.problem })
    log.error({ job: id, kind: job.kind, error: faultText(error) }, isLast ? 'a job failed' : 'a job did not go through; it is tried again')
    // Where not even this can be written, the queue still knows that it failed.
    if (isLast) await end(id, 'failed', 'The job failed after several attempts. The server log has the details.').catch(() => undefined)
    throw error
  }
}

// Its act may be undone in this very moment: whoever does so holds the row, and what they wrote stands.
async function end(id: number, state: Ended, error: string | null, result?: JobResult): Promise<void> {
  const orCancelled = state === 'done' ? sql<Ended>`case when ${jobs.stopping} then 'cancelled' else 'done' end` : state
  await jobsDb()
    .update(jobs)
    // Of what was not to be done nothing is kept but why.
    .set({ state: orCancelled, error, endedAt: new Date(), ...(result ? { result, payload: {} } : {}) })
    .where(eq(jobs.id, id))
}

// A job that is nobody's is short, and ends in its first turn.
function running(job: typeof jobs.$inferSelect, turn: { isOver: boolean }): Running {
  const began = Date.now()
  const { id, payload, personId, eventId } = job
  const self: Running = {
    id,
    payload,
    personId,
    eventId,
    cursor: job.cursor ?? null,
    async actor() {
      const actor = personId === null ? null : await findActor(personId)
      if (!actor)
        throw new PermanentJobError('The user who started this job was deactivated. What was done until then remains, and can be undone.')
      return actor
    },
    async step(piece) {
      const progress = await jobsDb().transaction(async (tx) => {
        // Taken before any other lock: a step that waits here holds nothing that a change of users needs.
        if (personId !== null) await holdRights(tx)
        const [now] = await tx.select({ cursor: jobs.cursor, state: jobs.state }).from(jobs).where(eq(jobs.id, id)).for('update')
        // Its act was undone meanwhile: what it would do now nobody could undo.
        if (now?.state === 'cancelled') return null
        // A process that was taken for gone was not: one of the two goes on.
        if (!isSame(now?.cursor ?? null, self.cursor)) throw new Error('another process goes on with this job')
        const did = await piece(tx, personId === null ? null : await self.actor())
        await tx
          .update(jobs)
          .set({ cursor: did.cursor, done: sql`${jobs.done} + ${did.done}`, moved: sql`${jobs.moved} + ${did.moved ?? 0}` })
          .where(eq(jobs.id, id))
        return did
      })
      if (progress) self.cursor = progress.cursor
    },
    async setTotal(total) {
      await jobsDb().update(jobs).set({ total }).where(eq(jobs.id, id))
    },
    async isCancelled() {
      if (stopping) return true
      const [now] = await jobsDb().select({ stopping: jobs.stopping }).from(jobs).where(eq(jobs.id, id))
      return now?.stopping !== false
    },
    async isStopping() {
      if (await self.isCancelled()) return true
      turn.isOver = personId !== null && Date.now() - began > SLICE
      return turn.isOver
    },
  }
  return self
}
