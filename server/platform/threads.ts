import { availableParallelism } from 'node:os'
import type { MessagePort } from 'node:worker_threads'
import { Piscina } from 'piscina'
import { WorkClock, type Start } from './work-clock'

/**
 * Worker threads, apart by what they are for, so that no kind of work waits for another:
 *
 *   ordinary    reading and deciding mail as it mostly is
 *   heavy       the same for what is large, or was not done in a second
 *   opening     making the HTML of a message harmless
 *   checking    what is questionable in the policy, which may take seconds and nobody waits for
 *   simulating  what a change would do to the mail that is here
 *   compiling   the policy, when it changes; nothing that a user sends comes here
 *   verifying   verifying senders: mostly waiting for DNS, so that one thread has many under way
 *   pasted      reading what was pasted or imported
 */
export type Pool = 'ordinary' | 'heavy' | 'opening' | 'checking' | 'simulating' | 'compiling' | 'pasted' | 'verifying' | 'verifyingLarge'

const IDLE = 60_000
/** Messages whose sender one thread verifies at the same time. */
const VERIFYING = 200
const VERIFYING_LARGE = 4
/** Where processors are few, these stand back behind ordinary mail and the thread that serves people (nice(2), a thread each on Linux). */
const BACK = 10
const FAR_BACK = 15
/**
 * Megabytes that what a thread has just made may take before it is looked through (V8's young generation). Of itself it would be 48 on
 * each of a dozen threads, and stay so.
 */
const YOUNG = { resourceLimits: { maxYoungGenerationSizeMb: 12 } }
let pools: Record<Pool, Piscina> | null = null
let fileOf: (name: string) => string = () => ''

/** Starts the worker threads. Without them, their work is done on the calling thread (tests). */
export function startThreads(files: (name: string) => string): void {
  fileOf = files
  const cores = Math.max(1, Math.min(4, availableParallelism()))
  pools ??= {
    ordinary: new Piscina({ ...YOUNG, filename: files('mail'), minThreads: 1, maxThreads: Math.max(2, cores), idleTimeout: IDLE }),
    heavy: new Piscina({ ...YOUNG, filename: files('mail'), minThreads: 0, maxThreads: cores, idleTimeout: IDLE, niceIncrement: BACK }),
    opening: new Piscina({ ...YOUNG, filename: files('open'), minThreads: 0, maxThreads: 3, idleTimeout: IDLE, niceIncrement: BACK }),
    checking: new Piscina({ ...YOUNG, minThreads: 0, maxThreads: 1, idleTimeout: IDLE, niceIncrement: FAR_BACK }),
    // They keep the mail that they read last, and stay a while for whoever goes on typing. One is there from the start: somebody
    // waits for the first answer, and to begin a thread takes as long as half of it.
    simulating: new Piscina({
      ...YOUNG,
      filename: files('simulate'),
      minThreads: 1,
      // One question may take two of them.
      maxThreads: 3,
      idleTimeout: 5 * IDLE,
      niceIncrement: BACK,
      // They wait for the next job by messages, and hear meanwhile which mail was erased.
      atomics: 'disabled',
    }),
    compiling: new Piscina({ ...YOUNG, filename: files('compile'), minThreads: 0, maxThreads: 1, idleTimeout: IDLE, niceIncrement: BACK }),
    verifying: new Piscina({
      ...YOUNG, filename: files('verify'), minThreads: 1, maxThreads: 1, concurrentTasksPerWorker: VERIFYING, idleTimeout: IDLE,
    }),
    verifyingLarge: new Piscina({
      ...YOUNG,
      filename: files('verify'),
      minThreads: 0,
      maxThreads: 1,
      concurrentTasksPerWorker: VERIFYING_LARGE,
      idleTimeout: IDLE,
      niceIncrement: BACK,
    }),
    pasted: new Piscina({ ...YOUNG, filename: files('lines'), minThreads: 0, maxThreads: 2, idleTimeout: IDLE, niceIncrement: BACK }),
  }
}

export async function stopThreads(): Promise<void> {
  const ending = pools
  pools = null
  if (ending) await Promise.all(Object.values(ending).map(pool => pool.destroy()))
}

export function hasThreads(): boolean {
  return pools !== null
}

/** Thrown where a job's clock ran out; its thread was given up. */
export class TookTooLong extends Error {}

const TICK = 100

/**
 * Runs a job on a thread of a pool.
 * @param name the exported function
 * @param transfer ports in what is asked, by which it tells of itself
 * @param seconds how long it may work from its start on
 */
export async function runOn<T>(
  pool: Pool,
  name: string,
  asked: object,
  { file, seconds, start, transfer }: { file?: string, seconds?: number, start?: Start, transfer?: MessagePort[] } = {},
): Promise<T> {
  const threads = pools![pool]
  const where = { name, ...(file ? { filename: fileOf(file) } : {}), ...(transfer ? { transferList: transfer } : {}) }
  if (seconds === undefined || !start) return (await threads.run(asked, where)) as T
  const ending = new AbortController()
  const clock = new WorkClock(start, seconds)
  const timer = setInterval(() => {
    if (clock.isOver()) ending.abort()
  }, TICK)
  try {
    return (await threads.run(asked, { ...where, signal: ending.signal })) as T
  }
  catch (error) {
    throw ending.signal.aborted ? new TookTooLong() : error
  }
  finally {
    clearInterval(timer)
  }
}
