import { sql } from 'drizzle-orm'
import type { Tx } from '../db/client'
import { LOCK_NUMBERS } from '../db/lock-numbers'

/**
 * Locks all users' rights against changes until the transaction ends. PostgreSQL grants advisory locks in order of arrival, so a job that
 * takes this lock in each of its steps does not keep a change of users waiting until the job ends.
 */
export async function holdRights(tx: Tx): Promise<void> {
  await tx.execute(sql`select pg_advisory_xact_lock_shared(${LOCK_NUMBERS.users})`)
}

/** Locks users for a change until the transaction ends: no other change, and no job step that depends on their rights, runs meanwhile. */
export async function lockUsers(tx: Tx): Promise<void> {
  await tx.execute(sql`select pg_advisory_xact_lock(${LOCK_NUMBERS.users})`)
}
