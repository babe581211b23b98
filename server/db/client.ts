import { drizzle, type NodePgDatabase } from 'drizzle-orm/node-postgres'
import pg from 'pg'
import { log } from '../platform/log'
import { wholeNumber } from '../platform/variables'
import * as schema from './schema'

export type Db = NodePgDatabase<typeof schema>
export type Tx = Parameters<Parameters<Db['transaction']>[0]>[0]

/** Seconds after which a query that was not answered is given up: the server stands still, or is out of reach. */
const ANSWER_WITHIN = 20
/** The same for changes of the policy, of which one may concern a million entries. */
const CHANGE_WITHIN = 600

/** A connection on which every query has a clock. Where it runs out the connection ends, and with it whatever was begun on it. */
function clientWithClock(seconds: number): typeof pg.Client {
  return class extends pg.Client {
    // The many ways to call it are those of pg.Client; whichever is used, its answer stops the clock.
    override query(...given: unknown[]): never {
      const clock = setTimeout(() => {
        const silent = Object.assign(new Error(`the database did not answer within ${seconds} seconds`), { code: 'ETIMEDOUT' })
        this.connection.stream.destroy(silent)
      }, seconds * 1000)
      const stop = () => clearTimeout(clock)
      const at = given.findLastIndex(argument => typeof argument === 'function')
      if (at >= 0) {
        const callback = given[at] as (...answer: unknown[]) => void
        given[at] = (...answer: unknown[]) => {
          stop()
          callback(...answer)
        }
      }
      const answer: unknown = super.query(...(given as Parameters<pg.Client['query']>))
      if (answer instanceof Promise) answer.then(stop, stop)
      return answer as never
    }
  }
}

// Mail lies on disks without moving heads, or in memory: an index is then nearly as cheap to walk as a table, which the
// server does not assume by itself. Compiling queries costs more than these short ones take.
const PLANNING = '-c random_page_cost=1.1 -c jit=off'

/**
 * What connections are for: `usual` for all that people wait for; `mail` for taking mail in, which goes on whatever people ask
 * for; `long` for changes of the policy and of the schema; `jobs` for long work and its queue.
 */
type Purpose = 'usual' | 'mail' | 'long' | 'jobs'

const PURPOSES: Record<Purpose, { seconds: number, connections: () => number }> = {
  usual: { seconds: ANSWER_WITHIN, connections: () => wholeNumber('SOBER_GATE_DB_CONNECTIONS', 10, { most: 1000 }) },
  mail: { seconds: ANSWER_WITHIN, connections: () => 6 },
  // Changes take turns; the second is for what begins inside one.
  long: { seconds: CHANGE_WITHIN, connections: () => 2 },
  jobs: { seconds: CHANGE_WITHIN, connections: () => 5 },
}

interface Open {
  pool: pg.Pool
  database: Db
}

const opened = new Map<Purpose, Open>()

function open(purpose: Purpose): Open {
  const there = opened.get(purpose)
  if (there) return there
  const made = connect(purpose)
  opened.set(purpose, made)
  return made
}

function connect(purpose: Purpose): Open {
  const { seconds, connections } = PURPOSES[purpose]
  const pool = new pg.Pool({
    ...address(),
    max: connections(),
    connectionTimeoutMillis: 5000,
    Client: clientWithClock(seconds),
    // A little sooner than our own clock: then the server says so itself, and the connection lives on.
    statement_timeout: (seconds - 2) * 1000,
    options: PLANNING,
  })
  // A server that goes away ends idle connections; without a listener that would end this process too.
  pool.on('error', error => log.warn({ error: error.message }, 'a database connection was lost'))
  pool.on('connect', client => client.on('error', error => log.warn({ error: error.message }, 'a database connection was lost')))
  return { pool, database: drizzle(pool, { schema, casing: 'snake_case' }) }
}

function address(name = 'sober-gate'): pg.ClientConfig {
  const connectionString = process.env.DATABASE_URL
  if (!connectionString) throw new Error('DATABASE_URL is not set: `npm start` sets it, or give the address of a PostgreSQL server.')
  // A server that vanishes without a word is noticed.
  return { connectionString, application_name: name, keepAlive: true }
}

/** The pool of this process, made at the first call from DATABASE_URL. */
export function dbPool(): pg.Pool {
  return open('usual').pool
}

/** Drizzle over the pool. */
export function db(): Db {
  return open('usual').database
}

/** The same for taking mail in. */
export function mailDb(): Db & { $client: pg.Pool } {
  return open('mail').database as Db & { $client: pg.Pool }
}

/** The same for what may take minutes; nobody waits for one of its connections but a change before another. */
export function longDb(): Db & { $client: pg.Pool } {
  return open('long').database as Db & { $client: pg.Pool }
}

/** The same for long work. */
export function jobsDb(): Db & { $client: pg.Pool } {
  return open('jobs').database as Db & { $client: pg.Pool }
}

/** A connection of one's own, not opened yet. */
export function separateClient(name: string): pg.Client {
  return new (clientWithClock(CHANGE_WITHIN))(address(`sober-gate ${name}`))
}

/** Ends the pools; the next db() makes a new one. */
export async function closeDb(): Promise<void> {
  const ending = [...opened.values()]
  opened.clear()
  await Promise.all(ending.map(({ pool }) => pool.end()))
}

// 53100: its disk is full; 57014: its own clock ran out.
const AWAY = new Set([
  '53100',
  '57014',
  'ECONNREFUSED',
  'ECONNRESET',
  'EPIPE',
  'ETIMEDOUT',
  'ENOTFOUND',
  '57P01',
  '57P02',
  '57P03',
  '08000',
  '08003',
  '08006',
  '53300',
])

/** What pg says where it has no code. */
const AWAY_WORDS =
  /Connection terminated|timeout exceeded when trying to connect|Client has encountered a connection error|Cannot use a pool after/

/** True if an error means that the database cannot be reached just now. */
export function isDatabaseAway(error: unknown): boolean {
  for (let at = error; at instanceof Error; at = at.cause) {
    const { code, message } = at as Error & { code?: string }
    if ((code && AWAY.has(code)) || AWAY_WORDS.test(message)) return true
    if (at instanceof AggregateError && at.errors.some(isDatabaseAway)) return true
  }
  return false
}

/** True where two transactions waited for each other and this one was ended; begun again it goes through. */
export function isDeadlock(error: unknown): boolean {
  for (let at = error; at instanceof Error; at = at.cause) if ((at as Error & { code?: string }).code === '40P01') return true
  return false
}
