import { sql } from 'drizzle-orm'
import type { Tx } from '../db/client'
import { LOCK_NUMBERS } from '../db/lock-numbers'

/**
 * Holds everybody's rights as they are until the transaction ends: whoever changes users waits. Those who wait to change them come before
 * those who ask for this later, so that a job whose steps follow each other does not keep them waiting to its end.
 */
export async function holdRights(tx: Tx): Promise<void> {
  await tx.execute(sql`select pg_advisory_xact_lock_shared(${LOCK_NUMBERS.users})`)
}

/** Holds until the transaction ends: nobody else changes users, and nothing is done meanwhile by the rights that they have. */
export async function lockUsers(tx: Tx): Promise<void> {
  await tx.execute(sql`select pg_advisory_xact_lock(${LOCK_NUMBERS.users})`)
}
