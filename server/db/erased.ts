import { sql } from 'drizzle-orm'
import type { Tx } from './client'

/** The channel on which is said which messages were erased: ids, separated by commas. */
export const ERASED = 'erased_messages'
/** A notification holds under 8,000 bytes. */
const BATCH_SIZE = 300

/** Says, once the transaction is committed, that these messages were erased: whatever keeps them drops them. */
export async function sayErased(tx: Tx, ids: readonly number[]): Promise<void> {
  for (let at = 0; at < ids.length; at += BATCH_SIZE)
    await tx.execute(sql`select pg_notify(${ERASED}, ${ids.slice(at, at + BATCH_SIZE).join(',')})`)
}
