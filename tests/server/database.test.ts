// A database that stands still, or has stopped: nobody waits for ever, nothing that was answered for is lost.
import { execFileSync, spawn, type ChildProcess } from 'node:child_process'
import { chmodSync, existsSync, mkdtempSync, readFileSync, renameSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { setTimeout as sleep } from 'node:timers/promises'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { freePort, startCluster } from '../../scripts/lib/cluster.mjs'
import { watchCluster } from '../../scripts/lib/watch.mjs'
import { callerFor, handOver, install, plainMessage, request, smtp, type Installation } from './support/installation'

const WORKER = 'worker@saltmere-harbour.example'
type Cluster = Awaited<ReturnType<typeof startCluster>>

async function until(what: () => unknown, seconds = 90): Promise<void> {
  for (let i = 0; i < seconds * 10; i++) {
    if (await what()) return
    await sleep(100)
  }
  expect(await what()).toBeTruthy()
}
/** The server's own process. */
const postmaster = (cluster: Pick<Cluster, 'folder'>) =>
  Number(readFileSync(join(cluster.folder, 'data/postmaster.pid'), 'utf8').split('\n')[0])
/** Every process of the server, its backends too. */
function processesOf(cluster: Cluster): number[] {
  const main = postmaster(cluster)
  return [
    main,
    ...execFileSync('ps', ['-o', 'pid=', '--ppid', String(main)], { encoding: 'utf8' })
      .split('\n')
      .filter(Boolean)
      .map(Number),
  ]
}

describe('a database that stands still', () => {
  let cluster: Cluster
  let gate: Installation
  beforeAll(async () => {
    const folder = mkdtempSync(join(tmpdir(), 'sober-gate-frozen-'))
    cluster = await startCluster(folder, { quick: true })
    gate = await install(folder, 'frozen')
  })
  afterAll(async () => {
    await gate.stop()
    cluster.remove()
  })
  it('whoever asks is told so in time, health at once, and all goes on when it moves again', async () => {
    const worker = await callerFor(gate.url, WORKER)
    const frozen = processesOf(cluster)
    for (const pid of frozen) process.kill(pid, 'SIGSTOP')
    try {
      const [health, copies, change, mail] = await Promise.all([
        request(`${gate.url}/api/health`),
        worker('GET', '/api/copies'),
        worker('POST', '/api/copies/judgement', { ids: [1], value: 'wanted' }),
        smtp(gate.smtpPort, handOver('a@elsewhere.example', [WORKER], plainMessage({ subject: 'into the ice' }))),
      ])
      expect([health.status, copies.status, change.status]).toEqual([503, 503, 503])
      expect(copies.body.detail).toContain('The database does not answer just now')
      expect(mail.at(-1)).toMatch(/^451 4\.3\.0/)
    }
    finally {
      for (const pid of frozen) process.kill(pid, 'SIGCONT')
    }
    await until(async () => (await worker('GET', '/api/copies')).status === 200)
    expect((await request(`${gate.url}/api/health`)).status).toBe(200)
    const again = await smtp(
      gate.smtpPort,
      handOver('a@elsewhere.example', [WORKER], plainMessage({ subject: 'after the ice' })),
    )
    expect(again.at(-1)).toMatch(/^250/)
  })
  it('one that has no room for more says so, and mail comes again later', async () => {
    await gate.database.query(
      `create function no_room() returns trigger language plpgsql as $$ begin raise exception using errcode = '53100', message = 'could `
      + `not extend file: No space left on device'; end $$`,
    )
    await gate.database.query(
      'create trigger no_room before insert on messages for each row execute function no_room()',
    )
    const replies = await smtp(gate.smtpPort, handOver('a@elsewhere.example', [WORKER], plainMessage()))
    expect(replies.at(-1)).toMatch(/^451/)
    await gate.database.query('drop trigger no_room on messages')
    expect((await smtp(gate.smtpPort, handOver('a@elsewhere.example', [WORKER], plainMessage()))).at(-1)).toMatch(
      /^250/,
    )
  })
})

describe('a disk that is full', () => {
  it('a log that cannot be written stops nothing', async () => {
    const folder = mkdtempSync(join(tmpdir(), 'sober-gate-unlogged-'))
    const cluster = await startCluster(folder, { quick: true })
    // full(4): whatever is written there finds no space left on the device.
    const gate = await install(folder, 'unlogged', {}, '/dev/full')
    try {
      const worker = await callerFor(gate.url, WORKER)
      // A connection that is lost is a line in the log each time.
      for (let i = 0; i < 5; i++) {
        await gate.database.query(
          `select pg_terminate_backend(pid) from pg_stat_activity where application_name like 'sober-gate%'`,
        )
        await until(async () => (await worker('GET', '/api/copies')).status === 200)
        const replies = await smtp(gate.smtpPort, handOver('a@elsewhere.example', [WORKER], plainMessage()))
        expect(replies.at(-1)).toMatch(/^(?:250|451)/)
      }
      await until(async () => (await request(`${gate.url}/api/health`)).status === 200)
    }
    finally {
      await gate.stop()
      cluster.remove()
    }
  })
  it('is told of while the database still runs, and when there is room again', async () => {
    const told: ({ why: string } | null)[] = []
    let room = true
    const cluster = {
      runs: () => true,
      hasRoom: () => room,
      start: () => expect.unreachable('it runs'),
      complaint: () => ({ why: 'full', more: '' }),
    }
    const end = watchCluster(cluster, note => told.push(note), 20)
    await sleep(100)
    expect(told).toEqual([])
    room = false
    await until(() => told.length)
    await sleep(100)
    room = true
    await until(() => told.length > 1)
    end()
    expect(told.map(t => t?.why ?? null)).toEqual(['full', null])
  })
})

describe('a database that stopped by itself', () => {
  let cluster: Cluster
  beforeAll(async () => {
    cluster = await startCluster(mkdtempSync(join(tmpdir(), 'sober-gate-stopped-')), { quick: true })
  })
  afterAll(() => cluster.remove())
  it('is started again as soon as that can be done, and said to be down meanwhile, once', async () => {
    const told: unknown[] = []
    const version = join(cluster.folder, 'data/PG_VERSION')
    process.kill(postmaster(cluster), 'SIGQUIT')
    await until(() => !cluster.runs())
    // As a full disk would, this keeps it from starting.
    renameSync(version, `${version}-away`)
    const end = watchCluster(cluster, note => told.push(note), 200)
    await until(() => told.length)
    await sleep(2000)
    expect([told, cluster.runs()]).toEqual([
      [{ why: expect.any(String), more: expect.stringContaining('server.log') }],
      false,
    ])
    renameSync(`${version}-away`, version)
    await until(() => told.length > 1)
    expect([told.length, told[1], cluster.runs()]).toEqual([2, null, true])
    end()
  })
})

describe('npm start: what it started would go on without it', () => {
  let started: ChildProcess
  const folder = mkdtempSync(join(tmpdir(), 'sober-gate-start-'))
  chmodSync(folder, 0o755) // the server's own user goes through it
  afterAll(() => {
    started.kill('SIGKILL')
    rmSync(folder, { recursive: true, force: true })
  })
  const descendants = (pid: number): number[] => {
    const children = execFileSync('ps', ['-eo', 'pid=,ppid='], { encoding: 'utf8' })
      .trim()
      .split('\n')
      .map(l => l.trim().split(/\s+/).map(Number) as [number, number])
    const out = [pid]
    for (const parent of out) for (const [child, of] of children) if (of === parent) out.push(child)
    return out.slice(1)
  }
  const runs = (pid: number) =>
    existsSync(`/proc/${pid}`) && !/^State:\s+Z/m.test(readFileSync(`/proc/${pid}/status`, 'utf8'))
  it('TERM ends the application and the database, whoever of them is told', async () => {
    const [port, smtpPort] = [await freePort(), await freePort()]
    let said = ''
    started = spawn('npm', ['start', '--', '--empty'], {
      cwd: new URL('../..', import.meta.url).pathname,
      env: {
        ...process.env,
        PORT: String(port),
        SMTP_PORT: String(smtpPort),
        SOBER_GATE_DATA_DIR: folder,
        DATABASE_URL: '',
      },
    })
    for (const stream of [started.stdout!, started.stderr!])
      stream.on('data', (data: Buffer) => (said += data.toString()))
    await until(() => said.includes('Ctrl-C stops everything') || started.exitCode !== null, 240)
    expect(said).toContain('Ctrl-C stops everything')
    expect(said).toContain('Make the first administrator')
    // The application, which the database is told of by its log, and whatever else there is.
    const below = descendants(started.pid!)
    const applications = below.filter(pid => readFileSync(`/proc/${pid}/cmdline`, 'utf8').includes('.output/server'))
    expect(applications).toHaveLength(1)
    const database = postmaster({ folder: join(folder, 'postgresql') })
    expect([runs(database), (await request(`http://127.0.0.1:${port}/api/health`)).status]).toEqual([true, 200])
    process.kill(started.pid!, 'SIGTERM')
    await until(() => ![...applications, database, ...below].some(runs))
    expect(existsSync(join(folder, 'running.json'))).toBe(false)
  })
})
