// The real build on a throwaway cluster that commits to disk as in life.
import { mkdtempSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import pg from 'pg'
import { startApplication } from '../scripts/lib/application.mjs'
import { freePort, startCluster } from '../scripts/lib/cluster.mjs'

/** Of the command line, and so of an administrator. */
const TOKEN = 'bench'.padEnd(44, 'x')
export const AUTHORIZED = { authorization: `Bearer ${TOKEN}` }
/** To whom mail is handed over, of the demo’s office. */
export const RECIPIENT = 'worker@saltmere-harbour.example'

export interface Installation {
  url: string
  smtpPort: number
  databaseUrl: string
  database: pg.Pool
  /** The process that serves. */
  pid: number
  stop(): Promise<void>
}

/** The cookie of the demo's administrator. */
export async function adminCookie(url: string): Promise<string> {
  const signedIn = await fetch(`${url}/api/session`, {
    method: 'POST',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify({ email: 'admin@saltmere-harbour.example', password: 'harbour-demo' }),
  })
  return signedIn.headers
    .getSetCookie()
    .map(c => c.split(';')[0])
    .join('; ')
}

/** @param messages how large the demo's archive is */
export async function install(messages: number): Promise<Installation> {
  const folder = mkdtempSync(join(tmpdir(), 'sober-gate-bench-'))
  const cluster = await startCluster(folder)
  const admin = new pg.Client({ connectionString: cluster.url })
  await admin.connect()
  await admin.query('create database bench')
  await admin.end()
  const databaseUrl = cluster.address('bench')
  const [port, smtpPort] = [await freePort(), await freePort()]
  const application = await startApplication(
    {
      PORT: String(port),
      HOST: '127.0.0.1',
      SMTP_PORT: String(smtpPort),
      DATABASE_URL: databaseUrl,
      NUXT_SESSION_PASSWORD: 'p'.repeat(40),
      SOBER_GATE_LOCAL_TOKEN: TOKEN,
      SOBER_GATE_SETUP_TOKEN: 'bench'.padEnd(32, 'y'),
      SOBER_GATE_DEMO: '1',
      SOBER_GATE_DEMO_ANCHOR: '2026-11-20',
      SOBER_GATE_DEMO_MESSAGES: String(messages),
      SOBER_GATE_LOG: 'warn',
    },
    join(folder, 'application.log'),
  )
  const database = new pg.Pool({ connectionString: databaseUrl, max: 2 })
  return {
    url: application.url,
    smtpPort,
    databaseUrl,
    database,
    pid: application.child.pid!,
    async stop() {
      await database.end()
      await application.stop()
      cluster.remove()
    },
  }
}
