import { spawnSync } from 'node:child_process'
import { mkdtempSync, readFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { gunzipSync } from 'node:zlib'
import pg from 'pg'
import { startApplication } from '../../scripts/lib/application.mjs'
import { freePort, startCluster } from '../../scripts/lib/cluster.mjs'
import { endHolds, questionsTo, type Questions } from './questions'
import { deliver, type Delivered } from './smtp'
import { until } from './wait'

export const TOKEN = 'test-token-'.padEnd(44, 'x')
export const SETUP_TOKEN = 'setup-token-'.padEnd(32, 'y')

type Cluster = Awaited<ReturnType<typeof startCluster>>

/** What the database holds at first: the demo's mail, so many messages, or nothing; or the dump of another installation. */
export type Contents = { messages: number } | { dump: string }
export const EMPTY: Contents = { messages: 0 }
export const FEW: Contents = { messages: 5 }
export const SMALL: Contents = { messages: 60 }
export const MEDIUM: Contents = { messages: 500 }

export interface Installation {
  url: string
  smtpPort: number
  database: pg.Pool
  databaseUrl: string
  /** What the database is asked, by name. */
  ask: Questions
  /** The file that its log goes to. */
  log: string
  /** Of the application's process, as it runs now. */
  pid(): number
  kill(): Promise<void>
  /** One more process on the same database. */
  beside(env: Record<string, string>): Promise<{ url: string, smtpPort: number, log: string, stop(): Promise<void> }>
  restart(): Promise<void>
  stop(): Promise<void>
}

const newLog = () => join(mkdtempSync(join(tmpdir(), 'sober-gate-log-')), 'application.log')

function applicationEnv(databaseUrl: string, contents: Contents): Record<string, string> {
  // Of a dump with the demo in it nothing more is loaded.
  const messages = 'dump' in contents ? 1 : contents.messages
  return {
    HOST: '127.0.0.1',
    DATABASE_URL: databaseUrl,
    NUXT_SESSION_PASSWORD: 'p'.repeat(40),
    SOBER_GATE_LOCAL_TOKEN: TOKEN,
    SOBER_GATE_SETUP_TOKEN: SETUP_TOKEN,
    SOBER_GATE_DEMO: messages ? '1' : '0',
    // The demo brings its stand-in; without it senders are verified by relays alone, unless a test says otherwise.
    ...(messages ? {} : { SOBER_GATE_DNS: 'off' }),
    SOBER_GATE_DEMO_ANCHOR: '2026-11-20',
    SOBER_GATE_DEMO_MESSAGES: String(messages),
  }
}
const freePorts = async () => ({ PORT: String(await freePort()), SMTP_PORT: String(await freePort()) })

/** The real build on a database of its own in a throwaway cluster. */
export async function install(
  clusterFolder: string,
  name: string,
  { contents = SMALL, env = {}, log = newLog() }: { contents?: Contents, env?: Record<string, string>, log?: string } = {},
): Promise<Installation> {
  const cluster = await startCluster(clusterFolder, { quick: true })
  await createDatabase(cluster, name, contents)
  const databaseUrl = cluster.address(name)
  const ports = await freePorts()
  const start = (over: Record<string, string>, to: string) =>
    startApplication({ ...applicationEnv(databaseUrl, contents), ...env, ...over }, to)
  let application = await start(ports, log)
  const database = openPool(databaseUrl)
  return {
    url: application.url,
    smtpPort: Number(ports.SMTP_PORT),
    database,
    databaseUrl,
    ask: questionsTo(database),
    log,
    pid: () => application.child.pid!,
    async kill() {
      application.child.kill('SIGKILL')
      await application.ended
    },
    async beside(over) {
      const others = await freePorts()
      const itsLog = `${log}-beside`
      const second = await start({ ...others, ...over }, itsLog)
      return { url: second.url, smtpPort: Number(others.SMTP_PORT), log: itsLog, stop: () => second.stop() }
    },
    async restart() {
      application = await start(ports, log)
    },
    async stop() {
      await endHolds(database)
      await database.end()
      await application.stop()
    },
  }
}

function openPool(connectionString: string): pg.Pool {
  const pool = new pg.Pool({ connectionString, max: 3 })
  pool.on('error', () => undefined) // the tests take the server away on purpose
  return pool
}

/** Makes a database with such contents, which are loaded once a cluster: into a template, of which every further one is a copy. */
async function createDatabase(cluster: Cluster, name: string, contents: Contents): Promise<void> {
  if ('dump' in contents) return createFromDump(cluster, name, contents.dump)
  const template = `template_${contents.messages}`
  const admin = new pg.Client({ connectionString: cluster.url })
  await admin.connect()
  try {
    // Several test files ask at once: one loads, the others wait, also those that need another size, so that mail is read in time.
    await admin.query(`select pg_advisory_lock(hashtext('templates'))`)
    for (let tries = 1; !(await exists(admin, template)); tries++) {
      if (tries > MAX_LOADS) throw new Error('The machine is too busy to read the demo’s documents in time.')
      await loadTemplate(cluster, admin, template, contents)
    }
    await admin.query(`select pg_advisory_unlock(hashtext('templates'))`)
    await admin.query(`drop database if exists ${name} with (force)`)
    await admin.query(`create database ${name} template ${template}`)
  }
  finally {
    await admin.end()
  }
}

// Plain SQL, as pg_dump writes it.
async function createFromDump(cluster: Cluster, name: string, file: string): Promise<void> {
  const admin = new pg.Client({ connectionString: cluster.url })
  await admin.connect()
  await admin.query(`drop database if exists ${name} with (force)`)
  await admin.query(`create database ${name}`)
  await admin.end()
  const { status, stderr } = spawnSync('psql', ['-q', '-v', 'ON_ERROR_STOP=1', cluster.address(name)], {
    input: gunzipSync(readFileSync(file)),
  })
  if (status !== 0) throw new Error(`the dump could not be loaded: ${stderr}`)
}

async function exists(admin: pg.Client, name: string): Promise<boolean> {
  return (await admin.query('select 1 from pg_database where datname = $1', [name])).rowCount === 1
}

const MAX_LOADS = 3

// Under another name until it is whole: what was broken off is no template, nor what lacks the text of a document that was not read
// in time.
async function loadTemplate(cluster: Cluster, admin: pg.Client, template: string, contents: Contents): Promise<void> {
  const loading = `${template}_loading`
  await admin.query(`drop database if exists ${loading} with (force)`)
  await admin.query(`create database ${loading}`)
  const url = cluster.address(loading)
  const application = await startApplication({ ...applicationEnv(url, contents), ...(await freePorts()) }, newLog())
  const pool = openPool(url)
  let isWhole = false
  try {
    await until('the template has nothing left to do', () => questionsTo(pool).isQuiet())
    // What autovacuum would have done by and by; a copy takes the statistics along.
    await pool.query('vacuum analyze')
    isWhole = (await questionsTo(pool).countReadTooLong()) === 0
  }
  finally {
    await pool.end()
    await application.stop()
  }
  if (isWhole) await admin.query(`alter database ${loading} rename to ${template}`)
}

/** Hands a message over, and returns its newest copy. */
export async function receive(gate: Installation, letter: Delivered) {
  const reply = await deliver(gate.smtpPort, letter)
  if (!reply.startsWith('250')) throw new Error(`the message was not taken: ${reply}`)
  // Its subject may have got a prefix.
  return gate.ask.oneCopy({ about: letter.subject }, { newest: true })
}
