import { and, inArray, sql } from 'drizzle-orm'
import type pg from 'pg'
import { jobsDb, separateClient } from '../db/client'
import { LOCK_NUMBERS } from '../db/lock-numbers'
import { jobs } from '../db/schema'
import { faultText, log } from '../platform/log'

let holder: pg.Client | null = null
let held: string | null = null

/**
 * Holds a lock of the session in the name of a pool of workers, as long as this process lives. Jobs bear the name of the pool
 * that does them: one whose lock is free belongs to a process that is gone.
 */
export async function holdLock(pool: string): Promise<void> {
  held = pool
  try {
    const client = separateClient('jobs')
    client.on('error', error => log.warn({ error: error.message }, 'the lock of this process’s jobs lost its connection'))
    client.on('end', () => {
      // A connection that drops takes the lock along; it is taken anew, before others think us gone.
      if (held === pool && holder === client) void holdLock(pool)
    })
    await client.connect()
    await client.query('select pg_advisory_lock($1, hashtext($2))', [LOCK_NUMBERS.job, pool])
    holder = client
  }
  catch (error) {
    log.warn({ error: faultText(error) }, 'the lock of this process’s jobs could not be taken; it is tried again')
    setTimeout(() => {
      if (held === pool) void holdLock(pool)
    }, 2000)
  }
}

export async function letLockGo(): Promise<void> {
  held = null
  const ending = holder
  holder = null
  await ending?.end().catch(() => undefined) // it is gone already
}

/**
 * Ends jobs that nobody does any more, since they were interrupted as often as the queue tries one: otherwise they would count as
 * running for ever, and of what there is one at a time there would be none.
 */
export async function endInterrupted(): Promise<void> {
  const ended = await jobsDb()
    .update(jobs)
    .set({ state: 'failed', error: INTERRUPTED, endedAt: new Date() })
    .where(and(inArray(jobs.state, ['waiting', 'running']), sql`not exists (
      select 1 from graphile_worker._private_jobs q
      where q.payload ->> 'id' = ${jobs.id}::text and (q.attempts < q.max_attempts or q.locked_at is not null))`))
    .returning({ id: jobs.id, kind: jobs.kind })
    .catch((error: unknown) => {
      log.warn({ error: faultText(error) }, 'it could not be seen which jobs were interrupted too often; it is tried again')
      return []
    })
  for (const { id, kind } of ended) log.error({ job: id, kind }, 'a job was interrupted as often as it is tried, and ends')
}

const INTERRUPTED = 'The server stopped ten times during this job. What was done until then remains, and can be undone. '
  + 'The server log has the details. Start the job again.'

/** Milliseconds after which a job that this process has locked, but is not running, counts as abandoned. */
const ABANDONED_AFTER = 10_000

/**
 * Unlocks jobs that no process is running: their process ended, or this one could not record that they had ended, because the
 * database was not reachable.
 * @param running ids in the queue of the jobs that this process is running
 */
export async function giveBackLocks(running: readonly string[]): Promise<void> {
  const client = await jobsDb().$client.connect().catch(() => null)
  if (!client) return // the database is away; the next time will do
  try {
    const { rows } = await client.query<{ pool: string }>(`
      select distinct locked_by as pool from graphile_worker._private_jobs where locked_by is not null`)
    for (const { pool } of rows) {
      if (pool === held) {
        const { rowCount } = await client.query(GIVE_BACK_OWN, [pool, running, ABANDONED_AFTER])
        if (rowCount) log.info({ jobs: rowCount }, 'abandoned jobs of this process go on')
        continue
      }
      const { rows: [free] } = await client.query<{ free: boolean }>(
        'select pg_try_advisory_lock($1, hashtext($2)) as free',
        [LOCK_NUMBERS.job, pool],
      )
      if (!free!.free) continue
      await client.query('select graphile_worker.force_unlock_workers(array[$1::text])', [pool])
      await client.query('select pg_advisory_unlock($1, hashtext($2))', [LOCK_NUMBERS.job, pool])
      log.info({ pool }, 'jobs of a process that is gone go on here')
    }
  }
  catch (error) {
    log.warn({ error: faultText(error) }, 'it could not be seen whose jobs are left')
  }
  finally {
    client.release()
  }
}

// The same update as the queue's own for a failed job, but without its delay. A job that had ended is not repeated: `work` checks
// its state.
const GIVE_BACK_OWN = `
  with given as (
    update graphile_worker._private_jobs set locked_by = null, locked_at = null
    where locked_by = $1 and id <> all($2::bigint[]) and locked_at < now() - $3::int * interval '1 millisecond'
    returning job_queue_id),
  queues as (
    update graphile_worker._private_job_queues set locked_by = null, locked_at = null
    where locked_by = $1 and id in (select job_queue_id from given))
  select from given`
