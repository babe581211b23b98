import { readFileSync, readlinkSync } from 'node:fs'

/**
 * Time limits of jobs on worker threads. Time counts from the start of the job, not while it is queued, and is the processor time of
 * the thread where the system reports it (proc(5)): with elapsed time, other load on the machine would cause messages to be read in part.
 */

/** Shared between the caller and the worker thread: 0 until the job starts, then the id of the thread. */
export type Start = Int32Array
const NOT_BEGUN = 0
const UNKNOWN_THREAD = -1
/** A job is also ended when the elapsed time is this many times its limit: it may wait for something that never happens. */
const PATIENCE = 10
/** USER_HZ, the unit of times in proc(5): 100 on every Linux that Node.js runs on. */
const TICKS_A_SECOND = 100

// Read once: each thread loads its own copy of this module.
const THIS_THREAD = thisThread()

export function newStart(): Start {
  return new Int32Array(new SharedArrayBuffer(Int32Array.BYTES_PER_ELEMENT))
}

/** Called on the worker thread when the job starts. Without a `start` there is no time limit. */
export function begin(start: Start | undefined): void {
  if (start) Atomics.store(start, 0, THIS_THREAD)
}

export class WorkClock {
  #since: { wall: number, thread: number, work: number | null } | null = null

  /** @param seconds the limit */
  constructor(
    private readonly start: Start,
    private readonly seconds: number,
  ) {}

  /** Whether the limit is exceeded. Call it regularly: time before the first call is not counted. */
  isOver(): boolean {
    const thread = Atomics.load(this.start, 0)
    if (thread === NOT_BEGUN) return false
    this.#since ??= { wall: performance.now(), thread, work: workOf(thread) }
    const { wall, work } = this.#since
    const waited = (performance.now() - wall) / 1000
    if (waited <= this.seconds) return false
    const worked = workOf(thread)
    return work === null || worked === null || worked - work > this.seconds || waited > PATIENCE * this.seconds
  }
}

// Synchronous file system calls run on the calling thread, so the link names that thread.
function thisThread(): number {
  try {
    return Number(readlinkSync('/proc/thread-self').split('/').at(-1)) || UNKNOWN_THREAD
  }
  catch {
    return UNKNOWN_THREAD // not Linux, or /proc is not mounted: elapsed time is used
  }
}

/** Processor time of a thread of this process in seconds; null if the system does not report it. */
function workOf(thread: number): number | null {
  try {
    const stat = readFileSync(`/proc/self/task/${thread}/stat`, 'latin1')
    // The name of the program is in brackets and may contain brackets itself.
    const fields = stat.slice(stat.lastIndexOf(')') + 2).split(' ')
    return (Number(fields[11]) + Number(fields[12])) / TICKS_A_SECOND
  }
  catch {
    return null // the thread has ended, or its id is unknown
  }
}
