import { mkdtempSync } from 'node:fs'
import { request as httpRequest } from 'node:http'
import { createConnection } from 'node:net'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import pg from 'pg'
import { freePort, startCluster } from '../../../scripts/lib/cluster.mjs'
import { startApplication } from '../../../scripts/lib/application.mjs'
import type { JobLine } from '../../../server/jobs/store'

export const TOKEN = 'test-token-'.padEnd(44, 'x')
export const SETUP_TOKEN = 'setup-token-'.padEnd(32, 'y')

export interface Installation {
  url: string
  smtpPort: number
  database: pg.Pool
  databaseUrl: string
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

/** The real build on a database of its own in the run's throwaway cluster. */
export async function install(
  clusterFolder: string,
  name: string,
  env: Record<string, string> = {},
  log = join(mkdtempSync(join(tmpdir(), 'sober-gate-log-')), 'application.log'),
): Promise<Installation> {
  const cluster = await startCluster(clusterFolder, { quick: true })
  const admin = new pg.Client({ connectionString: cluster.url })
  await admin.connect()
  await admin.query(`drop database if exists ${name} with (force)`)
  await admin.query(`create database ${name}`)
  await admin.end()
  const databaseUrl = cluster.address(name)
  const [port, smtpPort] = [await freePort(), await freePort()]
  const start = (
    ports = { PORT: String(port), SMTP_PORT: String(smtpPort) },
    over: Record<string, string> = {},
    to = log,
  ) =>
    startApplication(
      {
        ...ports,
        HOST: '127.0.0.1',
        DATABASE_URL: databaseUrl,
        NUXT_SESSION_PASSWORD: 'p'.repeat(40),
        SOBER_GATE_LOCAL_TOKEN: TOKEN,
        SOBER_GATE_SETUP_TOKEN: SETUP_TOKEN,
        SOBER_GATE_DEMO: '1',
        SOBER_GATE_DEMO_ANCHOR: '2026-11-20',
        SOBER_GATE_DEMO_MESSAGES: '60',
        ...env,
        ...over,
      },
      to,
    )
  let application = await start()
  const database = new pg.Pool({ connectionString: databaseUrl, max: 3 })
  database.on('error', () => undefined) // the tests take the server away on purpose
  return {
    url: application.url,
    smtpPort,
    database,
    databaseUrl,
    log,
    pid: () => application.child.pid!,
    async kill() {
      application.child.kill('SIGKILL')
      await application.ended
    },
    async beside(over) {
      const [one, other] = [await freePort(), await freePort()]
      const itsLog = `${log}-beside`
      const second = await start({ PORT: String(one), SMTP_PORT: String(other) }, over, itsLog)
      return { url: second.url, smtpPort: other, log: itsLog, stop: () => second.stop() }
    },
    async restart() {
      application = await start()
    },
    async stop() {
      await database.end()
      await application.stop()
    },
  }
}

type Answer = { status: number, body: any, headers: Headers } // eslint-disable-line @typescript-eslint/no-explicit-any
/** Somebody who calls the routes. */
export type Caller = (method: string, path: string, body?: unknown) => Promise<Answer>

/** One request on a connection of its own: one that is kept and that the server has meanwhile closed says nothing of the server. */
export function request(
  url: string,
  {
    method = 'GET',
    headers = {},
    body,
  }: { method?: string, headers?: Record<string, string>, body?: string | Buffer } = {},
): Promise<{ status: number, headers: Headers, text: string }> {
  return new Promise((resolve, reject) => {
    const sent = httpRequest(
      url,
      {
        method,
        agent: false,
        headers: { ...headers, ...(body === undefined ? {} : { 'content-length': String(Buffer.byteLength(body)) }) },
      },
      (response) => {
        const chunks: Buffer[] = []
        response
          .on('data', (chunk: Buffer) => chunks.push(chunk))
          .on('error', reject)
          .on('end', () => {
            const all = new Headers()
            for (let i = 0; i < response.rawHeaders.length; i += 2)
              all.append(response.rawHeaders[i]!, response.rawHeaders[i + 1]!)
            resolve({ status: response.statusCode!, headers: all, text: Buffer.concat(chunks).toString() })
          })
      },
    )
    sent.on('error', reject).end(body)
  })
}

/** Signs in and gives back a caller; null stays outside. */
export async function callerFor(url: string, account: string | null, password = 'harbour-demo'): Promise<Caller> {
  let cookie = ''
  const call: Caller = async (method, path, body) => {
    const { status, headers, text } = await request(`${url}${path}`, {
      method,
      headers: { ...(cookie ? { cookie } : {}), ...(body === undefined ? {} : { 'content-type': 'application/json' }) },
      body: body === undefined ? undefined : typeof body === 'string' ? body : JSON.stringify(body),
    })
    let parsed: unknown = text
    if (/json/.test(headers.get('content-type') ?? '') && text) parsed = JSON.parse(text)
    return { status, body: parsed, headers }
  }
  if (account) {
    const response = await request(`${url}/api/session`, {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify({ email: account, password }),
    })
    if (response.status !== 200) throw new Error(`signing in as ${account}: ${response.status} ${response.text}`)
    cookie = response.headers
      .getSetCookie()
      .map(c => c.split(';')[0])
      .join('; ')
  }
  return call
}

/** One SMTP conversation, line by line, so that the tests say exactly what is sent. */
export async function smtp(port: number, lines: (string | Buffer)[], localAddress = '127.0.0.1'): Promise<string[]> {
  const replies: string[] = []
  const socket = createConnection({ port, host: '127.0.0.1', localAddress })
  let waiting: ((reply: string) => void) | null = null
  let buffer = ''
  socket.on('data', (data) => {
    buffer += data.toString()
    const match = /^(?:\d{3}-.*\r\n)*\d{3} .*\r\n/.exec(buffer)
    if (match && waiting) {
      buffer = buffer.slice(match[0].length)
      const done = waiting
      waiting = null
      done(match[0].trim())
    }
  })
  const reply = () =>
    new Promise<string>((resolve, reject) => {
      waiting = resolve
      socket.once('error', reject)
      socket.once('close', () => reject(new Error('the connection was closed')))
    })
  replies.push(await reply())
  for (const line of lines) {
    const next = reply()
    socket.write(typeof line === 'string' ? `${line}\r\n` : line)
    replies.push(await next)
  }
  socket.removeAllListeners()
  socket.on('error', () => undefined)
  socket.destroy()
  return replies
}

/** The lines that hand one message over. */
export function handOver(from: string, to: string[], message: string): (string | Buffer)[] {
  return [
    'EHLO test.example',
    `MAIL FROM:<${from}>`,
    ...to.map(t => `RCPT TO:<${t}>`),
    'DATA',
    Buffer.from(`${message.replace(/\r?\n/g, '\r\n').replace(/^\./gm, '..')}\r\n.\r\n`),
  ]
}

export function plainMessage(
  over: { from?: string, subject?: string, id?: string, text?: string, utf8?: boolean } = {},
): string {
  const utf8 = 'MIME-Version: 1.0\nContent-Type: text/plain; charset=utf-8\nContent-Transfer-Encoding: 8bit\n'
  return `From: ${over.from ?? 'someone@elsewhere.example'}\nTo: worker@saltmere-harbour.example\n`
    + `Subject: ${over.subject ?? 'A subject'}\nDate: Tue, 24 Nov 2026 09:00:00 +0000\n`
    + `Message-ID: <${over.id ?? crypto.randomUUID()}@elsewhere.example>\n${over.utf8 ? utf8 : ''}\n${over.text ?? 'A text'}`
}

/** A job as it is when it has ended, however long that takes on a busy machine. */
export async function jobEnded(caller: Caller, id: number): Promise<JobLine> {
  for (let tries = 0; tries < 3000; tries++) {
    const { body } = await caller('GET', `/api/jobs/${id}`)
    if (['done', 'failed', 'cancelled'].includes(body.state)) return body
    await new Promise(resolve => setTimeout(resolve, 80))
  }
  throw new Error('the job did not end')
}
