import { drizzle, type NodePgDatabase } from 'drizzle-orm/node-postgres'
import pg from 'pg'
import { log } from '../services/log'
import * as schema from './schema'

export type Db = NodePgDatabase<typeof schema>
export type Tx = Parameters<Parameters<Db['transaction']>[0]>[0]

// Mail lies on disks without moving heads, or in memory: an index is then nearly as cheap to walk as a table, which the
// server does not assume by itself. Compiling queries costs more than these short ones take.
const PLANNING = '-c random_page_cost=1.1 -c jit=off'

let pool: pg.Pool | null = null
let database: Db | null = null

/** The pool of this process, made at the first call from DATABASE_URL. */
export function dbPool(): pg.Pool {
  if (pool) return pool
  const connectionString = process.env.DATABASE_URL
  if (!connectionString) throw new Error('DATABASE_URL is not set: `npm start` sets it, or give the address of a PostgreSQL server.')
  pool = new pg.Pool({ connectionString, max: Number(process.env.SOBER_GATE_DB_CONNECTIONS ?? 12), connectionTimeoutMillis: 5000, application_name: 'sober-gate', options: PLANNING })
  // A server that goes away ends idle connections; without a listener that would end this process too.
  pool.on('error', error => log.warn({ error: error.message }, 'a database connection was lost'))
  pool.on('connect', client => client.on('error', error => log.warn({ error: error.message }, 'a database connection was lost')))
  return pool
}

/** Drizzle over the pool. */
export function db(): Db {
  return database ??= drizzle(dbPool(), { schema, casing: 'snake_case' })
}

/** Ends the pool; the next db() makes a new one. */
export async function closeDb(): Promise<void> {
  const ending = pool
  pool = null
  database = null
  await ending?.end()
}

const AWAY = new Set(['ECONNREFUSED', 'ECONNRESET', 'EPIPE', 'ETIMEDOUT', 'ENOTFOUND', '57P01', '57P02', '57P03', '08000', '08003', '08006', '53300'])

/** True if an error means that the database cannot be reached just now. */
export function isDatabaseAway(error: unknown): boolean {
  for (let at = error; at instanceof Error; at = at.cause) {
    const { code, message } = at as Error & { code?: string }
    if ((code && AWAY.has(code)) || /Connection terminated|timeout exceeded when trying to connect|Client has encountered a connection error|Cannot use a pool after/.test(message)) return true
    if (at instanceof AggregateError && at.errors.some(isDatabaseAway)) return true
  }
  return false
}
