import { readFileSync, readlinkSync } from 'node:fs'

/**
 * How long a thread worked. The clock runs from when the work begins, not while it waits for a thread, and counts the processor's time
 * where the system tells it (proc(5)): on a busy machine a message would otherwise be read less of because others work, not because
 * reading it takes long.
 */

/** One number, shared by whoever asks and the thread. */
export type Start = Int32Array
const NOT_BEGUN = 0
const UNKNOWN_THREAD = -1
/** So many times as long as it may work, something may take by the clock on the wall: it could be waiting for what never comes. */
const PATIENCE = 10
/** USER_HZ, in which proc(5) counts: 100 on every Linux that Node.js runs on. */
const TICKS_A_SECOND = 100

export function newStart(): Start {
  return new Int32Array(new SharedArrayBuffer(Int32Array.BYTES_PER_ELEMENT))
}

/** Says on the working thread that the work begins. Without a start nobody counts. */
export function begin(start: Start | undefined): void {
  if (start) Atomics.store(start, 0, thisThread())
}

export class WorkClock {
  #since: { wall: number, thread: number, work: number | null } | null = null

  /** @param seconds how long the work may take */
  constructor(
    private readonly start: Start,
    private readonly seconds: number,
  ) {}

  /** Asked now and then: whether the time is over. What was worked before it is first asked is not counted. */
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

// A synchronous call of the file system is made by the thread that asks: the link names that very thread.
function thisThread(): number {
  try {
    return Number(readlinkSync('/proc/thread-self').split('/').at(-1)) || UNKNOWN_THREAD
  }
  catch {
    return UNKNOWN_THREAD // not Linux, or /proc is not mounted: the wall's clock counts
  }
}

/** Seconds of processor time of one of our threads; null where nobody tells. */
function workOf(thread: number): number | null {
  try {
    const stat = readFileSync(`/proc/self/task/${thread}/stat`, 'latin1')
    // The name, in brackets, may hold anything, also brackets.
    const fields = stat.slice(stat.lastIndexOf(')') + 2).split(' ')
    return (Number(fields[11]) + Number(fields[12])) / TICKS_A_SECOND
  }
  catch {
    return null // the thread is gone, or it has no number
  }
}
