import { migrate } from 'drizzle-orm/node-postgres/migrator'
import { drizzle } from 'drizzle-orm/node-postgres'
import { longDb } from './client'
import { LOCK_NUMBERS } from './lock-numbers'

/** Brings the schema up to date. Several processes may start at once on an empty database: one migrates, the others wait. */
export async function migrateDb(folder: string): Promise<void> {
  const client = await longDb().$client.connect()
  try {
    await client.query('select pg_advisory_lock($1)', [LOCK_NUMBERS.migration])
    await migrate(drizzle(client, { casing: 'snake_case' }), { migrationsFolder: folder })
  }
  finally {
    // The lock ends with the connection anyway.
    await client.query('select pg_advisory_unlock($1)', [LOCK_NUMBERS.migration]).catch(() => undefined)
    client.release()
  }
}
