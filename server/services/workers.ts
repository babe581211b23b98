import { availableParallelism } from 'node:os'
import { Piscina } from 'piscina'
import type { CheckContext, Finding, Policy } from '#core'
import compileHere, { type CompiledElsewhere, type Earlier } from '../workers/compile'
import checkHere from '../workers/check'
import * as here from '../workers/mail'
import { log } from './log'

/** How long one message may keep a thread before the thread is given up. Without its documents only its length costs time. */
const MOST_SECONDS = 10
const MOST_SECONDS_CLOSED = 300

let pool: Piscina | null = null
let fileOf: (name: string) => string = () => ''

/** Starts the worker threads. Without them, their work is done on the calling thread (tests). */
export function startWorkers(files: (name: string) => string): void {
  fileOf = files
  pool ??= new Piscina({ filename: fileOf('mail'), minThreads: 1, maxThreads: Math.max(1, Math.min(4, availableParallelism())), idleTimeout: 60_000 })
}

export async function stopWorkers(): Promise<void> {
  const ending = pool
  pool = null
  await ending?.destroy()
}

/**
 * Reads a message and decides its copies under an edition of the policy. A document in it that takes a thread for too long
 * costs that thread; the message is then read with its documents closed, and says so among its defects.
 */
export async function readAndDecide(job: here.DecideJob, edition: here.Edition): Promise<here.Decided> {
  try {
    return await decideWith(job, edition)
  }
  catch (error) {
    if (!(error instanceof TookTooLong) || job.closedDocuments) throw error
    log.warn({ seconds: MOST_SECONDS }, 'a message took too long to read; its documents stay closed')
    return decideWith({ ...job, closedDocuments: true }, edition)
  }
}

async function decideWith(job: here.DecideJob, edition: here.Edition): Promise<here.Decided> {
  const asked = { job, number: edition.number }
  // The policy goes along only where the thread has not got it yet.
  const answer = await watched(asked)
  const told = 'needs' in answer ? await watched({ ...asked, edition }) : answer
  if ('needs' in told) throw new Error('a worker thread would not take the policy')
  return told
}

class TookTooLong extends Error {}

// The clock runs from when a thread takes the work up, not while it waits for one.
async function watched(asked: Parameters<typeof here.decideMessage>[0]): Promise<here.Decided | here.Needs> {
  if (!pool) return here.decideMessage(asked)
  const most = asked.job.closedDocuments ? MOST_SECONDS_CLOSED : MOST_SECONDS
  const started = new Int32Array(new SharedArrayBuffer(4))
  const ending = new AbortController()
  let seconds = 0
  const clock = setInterval(() => {
    if (Atomics.load(started, 0) && ++seconds > most) ending.abort()
  }, 1000)
  try {
    return await pool.run({ ...asked, started }, { name: 'decideMessage', signal: ending.signal }) as here.Decided | here.Needs
  }
  catch (error) {
    throw ending.signal.aborted ? new TookTooLong() : error
  }
  finally {
    clearInterval(clock)
  }
}

/** The HTML of a message made harmless; null where it has none. */
export function readSafeHtml(bytes: Uint8Array): Promise<string | null> {
  return pool ? pool.run(bytes, { name: 'safeHtml' }) as Promise<string | null> : here.safeHtml(bytes)
}

/** The policy in force, compiled off this thread. @param earlier of which what did not change is taken over */
export function compileElsewhere(earlier: Earlier | null): Promise<CompiledElsewhere> {
  return pool ? pool.run(earlier, { filename: fileOf('compile'), name: 'default' }) as Promise<CompiledElsewhere> : compileHere(earlier)
}

/** What the checks find in a policy. */
export function checkElsewhere(policy: Policy, context: CheckContext): Promise<Finding[]> {
  return pool ? pool.run({ policy, context }, { filename: fileOf('check'), name: 'default' }) as Promise<Finding[]> : Promise.resolve(checkHere({ policy, context }))
}
