import { sql, type SQL } from 'drizzle-orm'
import type { Lane, State } from '#core'

/** Values as SQL writes them in a list: `'inbox', 'sent'`. Only of constants of this program. */
export function sqlList(values: readonly string[]): SQL {
  return sql.raw(values.map(v => `'${v}'`).join(', '))
}

// Of the core the types alone: the schema is read by tools that load no more than it. The compiler finds what is missing here.
const isLane: Record<Lane, true> = {
  inbox: true,
  lowPriority: true,
  spam: true,
  quarantine: true,
  bin: true,
  refused: true,
  discarded: true,
  sent: true,
}
const isState: Record<State, true> = { disabled: true, monitor: true, enabled: true }

/** What the columns of that name may hold. */
export const ANY_LANE = sqlList(Object.keys(isLane))
export const ANY_STATE = sqlList(Object.keys(isState))

/** The lanes that Review shows, in the order of its places. */
export const REVIEWED_LANES = ['quarantine', 'spam', 'lowPriority', 'bin'] as const satisfies readonly Lane[]
export type ReviewedLane = (typeof REVIEWED_LANES)[number]
export const REVIEWED = sqlList(REVIEWED_LANES)

/** The lanes of delivered mail, as `isDelivered` of the core has them. */
export const DELIVERED_LANES = ['inbox', 'lowPriority', 'sent'] as const satisfies readonly Lane[]
export const DELIVERED = sqlList(DELIVERED_LANES)
