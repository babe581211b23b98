import { sql } from 'drizzle-orm'
import { entries } from '../db/schema'

/** The position of an entry in its list; an entry that was changed or restored keeps it. The same expression as in the index. */
export const ENTRY_PLACE = sql<number>`coalesce(${entries.place}, ${entries.row})`

export function placeOf({ place, row }: Pick<typeof entries.$inferSelect, 'place' | 'row'>): number {
  return place ?? row
}
