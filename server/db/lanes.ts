import { sql, type SQL } from 'drizzle-orm'
import { isDelivered, isKeptAway, LANES } from '#core/policy'

/** Values as SQL writes them in a list: `'inbox', 'sent'`. Only of constants of this program. */
export function sqlList(values: readonly string[]): SQL {
  return sql.raw(values.map(v => `'${v}'`).join(', '))
}

/** The lanes that Review shows, in the order of its places. */
export const REVIEWED_LANES = ['quarantine', 'spam', 'lowPriority', 'bin'] as const
export type ReviewedLane = (typeof REVIEWED_LANES)[number]

/** The same sets of lanes as in the core, for queries. */
export const REVIEWED = sqlList(REVIEWED_LANES)
export const DELIVERED = sqlList(LANES.filter(isDelivered))
export const KEPT_AWAY = sqlList(LANES.filter(isKeptAway))
