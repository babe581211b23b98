import { setImmediate } from 'node:timers/promises'

/** Milliseconds of work after which others have their turn. */
const SLICE = 2

/** Requests and mail of others come first; then the caller goes on. */
export const othersFirst = (): Promise<void> => setImmediate()

/** Does something with each, so many that others would wait: every few milliseconds their requests and mail come first. */
export function eachInSlices<T>(items: Iterable<T>, work: (item: T) => void): Promise<void> {
  return inSlices((function* () {
    for (const item of items) {
      work(item)
      yield
    }
  })())
}

/** So many rows are written by one statement: to build one of thousands of rows takes longer than others should wait. */
const ROWS = 250

/** Does something with rows, so many at a time, one after the other. */
export async function someAtATime<T>(rows: readonly T[], work: (some: T[]) => Promise<unknown>): Promise<void> {
  for (let at = 0; at < rows.length; at += ROWS) await work(rows.slice(at, at + ROWS))
}

/** Does work that can be interrupted on the serving thread: every few milliseconds requests and mail of others come first. */
export async function inSlices<T>(work: Generator<undefined, T>): Promise<T> {
  for (let until = performance.now() + SLICE; ;) {
    const { done, value } = work.next()
    if (done) return value
    if (performance.now() < until) continue
    await othersFirst()
    until = performance.now() + SLICE
  }
}
