import { AsyncLocalStorage } from 'node:async_hooks'
import type { ServerResponse } from 'node:http'

// Whatever a request waits for asks here, however deep it lies: a parameter would be forgotten somewhere.
const callers = new AsyncLocalStorage<AbortSignal>()

/** Thrown where a client left while its request waited: nothing was done, and nobody reads an answer. */
export class CallerLeft extends Error {}

/** Runs the work of a request. What it waits for ends when its client leaves. */
export function whileCallerStays<T>(response: ServerResponse, work: () => T): T {
  const left = new AbortController()
  if (response.destroyed) left.abort()
  response.once('close', () => left.abort())
  return callers.run(left.signal, work)
}

/** @throws CallerLeft where the client of the present request has left */
export function mustBeThere(): void {
  if (callerSignal()?.aborted) throw new CallerLeft()
}

/** Aborted when the client of the present request leaves, or its answer has been sent; undefined outside of requests. */
export function callerSignal(): AbortSignal | undefined {
  return callers.getStore()
}
