import { DrizzleQueryError } from 'drizzle-orm/errors'
import { pino } from 'pino'
import { logLines } from './log-lines'

/** The log of this process: JSON lines on standard error. */
export const log = pino(
  { level: process.env.SOBER_GATE_LOG ?? 'info', base: { pid: process.pid } },
  logLines(),
)

/**
 * An error as the log tells it: where it came from and what the database said, never what a query was given. Parameters are
 * mail, passwords and names.
 */
export function faultText(error: unknown): string {
  if (error instanceof DrizzleQueryError) return `A query failed: ${error.query.slice(0, 500)}\n${faultText(error.cause)}`
  if (error instanceof AggregateError) return [error.message, ...error.errors.map(faultText)].join('\n')
  return error instanceof Error ? (error.stack ?? String(error)) : String(error)
}

/** Of what happens with every message or request, a line is written in so many milliseconds. */
const SELDOM = 10_000
let lastLogged = 0

/** Tells that the database is out of reach, now and then: everything that is asked meanwhile would say so. */
export function tellOfDatabase(error: unknown): void {
  if (Date.now() - lastLogged < SELDOM) return
  lastLogged = Date.now()
  let inner = error
  // The outer one names what the query was given.
  while (inner instanceof Error && inner.cause instanceof Error) inner = inner.cause
  log.warn({ error: inner instanceof DrizzleQueryError ? 'a query failed' : String(inner) }, 'the database cannot do what is asked')
}
