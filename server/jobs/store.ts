import { and, desc, eq, inArray, lt, sql } from 'drizzle-orm'
import { can, type Actor } from '../access/roles'
import { db, type Db, type Tx } from '../db/client'
import { auditEvents, jobs, type JobResult, type JobState, type StayedCopy } from '../db/schema'
import { notFound, Problem } from '../platform/problem'

/** Long work as it is told of. */
export interface JobView {
  id: number
  /** The actor began it. */
  mine: boolean
  kind: string
  state: JobState
  done: number
  /** Null while that is not known. */
  total: number | null
  /** How many copies it moved. */
  moved: number
  /** How many it was counted to move before, where that was said. */
  expected: number | null
  /** The act by which it is undone, or null. */
  eventId: number | null
  /** Copies of its event that stay where they are, since another's stop stands; why of the first, for who began it. */
  stayed: { count: number, first: StayedCopy | null }
  /** Why it failed, or what it needs, or null. */
  error: string | null
  /** What it came to, for who began it. */
  result: JobResult | null
  at: string
}

type JobRow = typeof jobs.$inferSelect

const STAYED = {
  job: jobs,
  stayed: sql<number>`coalesce((${auditEvents.detail} ->> 'stayed')::int, 0)`,
  first: sql<StayedCopy | null>`${auditEvents.detail} -> 'stays' -> 0`,
}

function lineOf(actor: Actor, { job, stayed, first }: { job: JobRow, stayed: number, first: StayedCopy | null }): JobView {
  const { id, kind, state, done, total, moved, eventId, error, result, createdAt, personId, payload } = job
  const expected = (payload as { expected?: number } | null)?.expected ?? null
  const mine = personId === actor.id
  // The sentence was made for who began it, and may name a clause of their own.
  const stays = { count: stayed, first: mine ? first : null }
  const own = mine ? { error, result } : { error: result ? null : error, result: null }
  return { id, mine, kind, state, done, total, moved, expected, eventId, stayed: stays, ...own, at: createdAt.toISOString() }
}

export type Ended = 'done' | 'failed' | 'cancelled' | 'needsConfirmation'
export const ENDED: readonly JobState[] = ['done', 'failed', 'cancelled', 'needsConfirmation'] satisfies Ended[]
const MAX_TRIES = 10
/** The name under which graphile-worker knows every job of ours. */
export const TASK = 'job'

export interface NewJob {
  kind: string
  payload?: Record<string, unknown>
  /** Of what there is one at a time; a second one that is asked for is the first. */
  key?: string
  personId?: string | null
  eventId?: number | null
}

/** So many jobs of one person wait at a time. */
const MAX_WAITING = 10

/**
 * Asks for long work. In the transaction of whatever it belongs to: then both are there, or neither.
 * @throws 429 where too many of the person's jobs wait already
 */
export async function addJob(at: Db | Tx, { kind, payload = {}, key, personId = null, eventId = null }: NewJob): Promise<number> {
  if (personId !== null) await mustHaveRoom(at, personId)
  const [made] = await at
    .insert(jobs)
    .values({ kind, payload, key: key ?? null, personId, eventId })
    .onConflictDoNothing()
    .returning({ id: jobs.id })
  if (!made) {
    const [there] = await at
      .select({ id: jobs.id })
      .from(jobs)
      .where(and(eq(jobs.kind, kind), eq(jobs.key, key ?? ''), inArray(jobs.state, ['waiting', 'running'])))
    // It has ended in between: then it is asked for once more.
    return there ? there.id : addJob(at, { kind, payload, key, personId, eventId })
  }
  await queueJob(at, { id: made.id, personId })
  return made.id
}

// One after the other, or several at once would each find room.
async function mustHaveRoom(at: Db | Tx, personId: string): Promise<void> {
  await at.execute(sql`select pg_advisory_xact_lock(hashtext(${`jobs ${personId}`}))`)
  const [own] = await at
    .select({ n: sql<number>`count(*)::int` })
    .from(jobs)
    .where(and(eq(jobs.personId, personId), eq(jobs.state, 'waiting')))
  if (own!.n < MAX_WAITING) return
  throw new Problem(
    429,
    'Too many jobs',
    `${MAX_WAITING} of your jobs are already waiting. Nothing was changed. `
    + 'Wait until one of them has finished, or cancel one, then try again.',
    { headers: { 'retry-after': '30' } },
  )
}

/** Smaller numbers come first: what the product does by itself is short, and somebody waits for it somewhere. */
const PRIORITY = { system: -1, person: 0 }

/**
 * Puts a job into the queue, once more where it was interrupted. One person's jobs are done one after the other: their work waits
 * behind their own, and takes nothing from the others.
 */
export async function queueJob(at: Db | Tx, { id, personId }: Pick<JobRow, 'id' | 'personId'>): Promise<void> {
  const queue = personId === null ? null : `person ${personId}`.slice(0, 128)
  await at.execute(sql`select graphile_worker.add_job(
    ${TASK}, ${JSON.stringify({ id })}::json, max_attempts := ${MAX_TRIES}::int, queue_name := ${queue}::text,
    priority := ${personId === null ? PRIORITY.system : PRIORITY.person}::int)`)
}

function seenBy(actor: Actor) {
  return can(actor, 'view settings') ? undefined : eq(jobs.personId, actor.id)
}

/** The long work that somebody asked for, the newest first; for who sees the house all of it. */
export async function listJobs(
  actor: Actor,
  { before, limit }: { before?: number, limit: number },
): Promise<{ items: JobView[], next: number | null }> {
  const rows = await db()
    .select(STAYED)
    .from(jobs)
    .leftJoin(auditEvents, eq(auditEvents.id, jobs.eventId))
    .where(and(seenBy(actor), before === undefined ? undefined : lt(jobs.id, before)))
    .orderBy(desc(jobs.id))
    .limit(limit + 1)
  return { items: rows.slice(0, limit).map(row => lineOf(actor, row)), next: rows.length > limit ? rows[limit - 1]!.job.id : null }
}

export async function openJob(actor: Actor, id: number): Promise<JobView> {
  const [job] = await db()
    .select(STAYED)
    .from(jobs)
    .leftJoin(auditEvents, eq(auditEvents.id, jobs.eventId))
    .where(and(eq(jobs.id, id), seenBy(actor)))
  if (!job) throw notFound('This job')
  return lineOf(actor, job)
}

/**
 * Asks long work to stop: what waits is cancelled now, what runs after its present step. What it did so far stays, until its
 * act is undone.
 */
export async function cancelJob(actor: Actor, id: number): Promise<JobView> {
  await openJob(actor, id)
  await db()
    .update(jobs)
    .set({
      stopping: true,
      state: sql`case when ${jobs.state} = 'waiting' then 'cancelled' else ${jobs.state} end`,
      endedAt: sql`case when ${jobs.state} = 'waiting' then now() else ${jobs.endedAt} end`,
    })
    .where(and(eq(jobs.id, id), inArray(jobs.state, ['waiting', 'running'])))
  return openJob(actor, id)
}

/**
 * Ends the work of an event, in the transaction that undoes the event: a step that is under way is waited for, and none comes
 * after it.
 */
export async function endJobsOf(tx: Tx, eventId: number): Promise<void> {
  await tx
    .update(jobs)
    .set({ stopping: true, state: 'cancelled', endedAt: sql`now()` })
    .where(and(eq(jobs.eventId, eventId), inArray(jobs.state, ['waiting', 'running'])))
}
