import { sql } from 'drizzle-orm'
import { entries } from '../db/schema'

/** Where an entry stands in its list: an entry that was changed, or came back, where it stood before. As the index has it. */
export const ENTRY_PLACE = sql<number>`coalesce(${entries.place}, ${entries.row})`

export function placeOf({ place, row }: Pick<typeof entries.$inferSelect, 'place' | 'row'>): number {
  return place ?? row
}
