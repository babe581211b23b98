import { setTimeout as sleep } from 'node:timers/promises'
import type { JobView } from '../../server/jobs/store'
import type { Caller } from './http'

/** Milliseconds. Ends a test that hangs; a busy machine with one core must come through. */
const PATIENCE = 240_000

type Truthy<T> = Exclude<T, false | 0 | '' | null | undefined>

/**
 * Waits for a fact.
 * @param what the fact, in the words of the error that is thrown when it does not come true
 * @param look gives the fact, or something falsy as long as it is not true
 * @returns what `look` gave
 */
export async function until<T>(what: string, look: () => T | Promise<T>, patience = PATIENCE): Promise<Truthy<T>> {
  let last: T | undefined
  for (const end = Date.now() + patience; Date.now() < end; await sleep(25)) {
    last = await look()
    if (last) return last as Truthy<T>
  }
  throw new Error(`Waited ${patience / 1000} s in vain until ${what}. The last look gave ${JSON.stringify(last)}.`)
}

/** A job as it is when it has ended. */
export function jobEnded(caller: Caller, id: number): Promise<JobView> {
  if (typeof id !== 'number') throw new Error('no job was begun')
  return until(`job ${id} has ended`, async () => {
    const { body } = await caller('GET', `/api/jobs/${id}`)
    return ['done', 'failed', 'cancelled', 'needsConfirmation'].includes(body.state) && (body as JobView)
  })
}
