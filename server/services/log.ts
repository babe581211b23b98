import { DrizzleQueryError } from 'drizzle-orm/errors'
import { pino } from 'pino'

/** The log of this process: JSON lines on standard error. */
export const log = pino(
  { level: process.env.SOBER_GATE_LOG ?? 'info', base: { pid: process.pid } },
  pino.destination({ dest: 2, sync: true }),
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
