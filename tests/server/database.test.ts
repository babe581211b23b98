// A database that stands still, or has stopped: nobody waits for ever, nothing that was answered for is lost.
import { execFileSync, spawn, type ChildProcess } from 'node:child_process'
import { chmodSync, existsSync, mkdtempSync, readFileSync, renameSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { setTimeout as sleep } from 'node:timers/promises'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { freePort, startCluster } from '../../scripts/lib/cluster.mjs'
import { watchCluster } from '../../scripts/lib/watch.mjs'
import { request, signIn, undo } from '../support/http'
import { install, type Installation, MEDIUM } from '../support/installation'
import { addressOf } from '../support/office'
import { holdCopies } from '../support/questions'
import { deliver, handOver, plainMessage, smtp } from '../support/smtp'
import { jobEnded, until } from '../support/wait'

const WORKER = addressOf('worker')
type Cluster = Awaited<ReturnType<typeof startCluster>>

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
    gate = await install(folder, 'frozen', { contents: MEDIUM })
  })
  afterAll(async () => {
    await gate.stop()
    cluster.remove()
  })
  it('whoever asks is told so in time, health at once, and all goes on when it moves again', async () => {
    const worker = await signIn(gate, WORKER)
    const frozen = processesOf(cluster)
    for (const pid of frozen) process.kill(pid, 'SIGSTOP')
    try {
      const [health, copies, change, mail] = await Promise.all([
        request(gate.url, '/api/health'),
        worker('GET', '/api/copies'),
        worker('POST', '/api/copies/judgement', { ids: [1], versions: 'any', value: 'wanted' }),
        deliver(gate.smtpPort, { subject: 'into the ice' }),
      ])
      expect([health.status, copies.status, change.status]).toEqual([503, 503, 503])
      expect(copies.body.detail).toContain('The database does not answer')
      expect(mail).toMatch(/^451 4\.3\.0/)
    }
    finally {
      for (const pid of frozen) process.kill(pid, 'SIGCONT')
    }
    await until('copies are shown again', async () => (await worker('GET', '/api/copies')).status === 200)
    expect((await request(gate.url, '/api/health')).status).toBe(200)
    expect(await deliver(gate.smtpPort, { subject: 'after the ice' })).toMatch(/^250/)
  })
  it('one that is stopped is told of with 451 and 503, and all goes on once it runs again', async () => {
    const worker = await signIn(gate, WORKER)
    cluster.stop('immediate')
    const dialogue = handOver('x@elsewhere.example', [WORKER], plainMessage()).slice(0, 5)
    expect((await smtp(gate.smtpPort, dialogue).catch(() => ['000'])).at(-1)).toMatch(/^(?:354|451)/)
    expect(await deliver(gate.smtpPort, { subject: 'while away' })).toMatch(/^451/)
    expect(await worker('GET', '/api/copies')).toMatchObject({
      status: 503,
      body: { status: 503, detail: expect.stringContaining('database') },
    })
    expect((await request(gate.url, '/api/health')).status).toBe(503)
    cluster.start()
    await until('health is well again', async () => (await request(gate.url, '/api/health')).status === 200)
    // As a mail server does: what was answered with 451 is sent again.
    await until('the message is taken', async () =>
      (await deliver(gate.smtpPort, { subject: 'after all', id: 'after-all' })).startsWith('250'))
    expect(await gate.ask.countCopies({ subject: 'after all' })).toBe(1)
  })
  // After an immediate stop the queue cannot record that the job failed, and leaves it locked.
  it.each(['fast', 'immediate'] as const)('a job in whose middle it stops (%s) goes on: all are moved, once', async (mode) => {
    const admin = await signIn(gate, 'admin')
    const before = await gate.ask.copyStates()
    const all = await gate.ask.countCopies({ lane: 'inbox' })
    // The job’s second step waits for this copy.
    const held = await holdCopies(gate.database, { lane: 'inbox' }, { offset: 250, limit: 1 })
    const { body: { job, eventId } } = await admin('POST', '/api/copies/lane', { query: { lane: ['inbox'] }, lane: 'spam' })
    await until('its first step is done', async () => (await gate.ask.job(job))!.done > 0)
    // Ends every transaction, the job’s and the one that it waits for.
    cluster.stop(mode)
    await sleep(2000)
    cluster.start()
    await expect(held.end()).rejects.toThrow()
    await until('health is well again', async () => (await request(gate.url, '/api/health')).status === 200)
    expect(await jobEnded(admin, job)).toMatchObject({ state: 'done', done: all, moved: all })
    expect(await gate.ask.auditEventItems(eventId)).toHaveLength(all)
    expect((await undo(admin, eventId)).status).toBe(200)
    expect(await gate.ask.copyStates()).toEqual(before)
  })
  it('a job that finds no room in its middle is tried again, and done once there is some', async () => {
    const admin = await signIn(gate, 'admin')
    const all = await gate.ask.countCopies({ lane: 'inbox' })
    const held = await holdCopies(gate.database, { lane: 'inbox' }, { offset: 250, limit: 1 })
    const { body: { job, eventId } } = await admin('POST', '/api/copies/lane', { query: { lane: ['inbox'] }, lane: 'spam' })
    await until('its first step is done', async () => (await gate.ask.job(job))!.done > 0)
    await gate.ask.fillDisk('audit_event_items')
    await held.end()
    await until('it was tried in vain', async () => (await gate.ask.queueFailures()) > 0)
    const { done } = (await gate.ask.job(job))!
    expect(await gate.ask.countCopies({ lane: 'inbox' })).toBe(all - done)
    await gate.ask.makeRoom('audit_event_items')
    expect(await jobEnded(admin, job)).toMatchObject({ state: 'done', done: all, moved: all })
    expect((await undo(admin, eventId)).status).toBe(200)
  })
  it('one that has no room for more says so, and mail comes again later', async () => {
    await gate.ask.fillDisk('messages')
    expect(await deliver(gate.smtpPort)).toMatch(/^451/)
    await gate.ask.makeRoom('messages')
    expect(await deliver(gate.smtpPort)).toMatch(/^250/)
  })
})

describe('a disk that is full', () => {
  it('a log that cannot be written stops nothing', async () => {
    const folder = mkdtempSync(join(tmpdir(), 'sober-gate-unlogged-'))
    const cluster = await startCluster(folder, { quick: true })
    // full(4): whatever is written there finds no space left on the device.
    const gate = await install(folder, 'unlogged', { log: '/dev/full' })
    try {
      const worker = await signIn(gate, WORKER)
      // A connection that is lost is a line in the log each time.
      for (let i = 0; i < 5; i++) {
        expect(await gate.ask.endConnections()).toBeGreaterThan(0)
        await until('copies are shown again', async () => (await worker('GET', '/api/copies')).status === 200)
        expect(await deliver(gate.smtpPort)).toMatch(/^(?:250|451)/)
      }
      await until('health is well again', async () => (await request(gate.url, '/api/health')).status === 200)
    }
    finally {
      await gate.stop()
      cluster.remove()
    }
  })
  it('is told of while the database still runs, and when there is room again', async () => {
    const result: ({ why: string } | null)[] = []
    let room = true
    let looked = 0
    const cluster = {
      runs: () => true,
      hasRoom: () => {
        looked++
        return room
      },
      start: () => expect.unreachable('it runs'),
      complaint: () => ({ why: 'full', more: '' }),
    }
    const end = watchCluster(cluster, note => result.push(note), 5)
    // Looked at several times, and told of only where something changed.
    const looks = (more: number) => {
      const from = looked
      return until(`the watch looks ${more} times more`, () => looked >= from + more)
    }
    await looks(3)
    expect(result).toEqual([])
    room = false
    await until('the full disk is told of', () => result.length)
    await looks(3)
    room = true
    await until('the room is told of', () => result.length > 1)
    await looks(3)
    end()
    expect(result.map(t => t?.why ?? null)).toEqual(['full', null])
  })
})

describe('a database that stopped by itself', () => {
  let cluster: Cluster
  beforeAll(async () => {
    cluster = await startCluster(mkdtempSync(join(tmpdir(), 'sober-gate-stopped-')), { quick: true })
  })
  afterAll(() => cluster.remove())
  it('is started again as soon as that can be done, and said to be down meanwhile, once', async () => {
    const result: unknown[] = []
    const version = join(cluster.folder, 'data/PG_VERSION')
    process.kill(postmaster(cluster), 'SIGQUIT')
    await until('the database has stopped', () => !cluster.runs())
    // As a full disk would, this keeps it from starting.
    renameSync(version, `${version}-away`)
    let starts = 0
    const counted = { ...cluster, start: () => {
      starts++
      cluster.start()
    } }
    const end = watchCluster(counted, note => result.push(note), 200)
    await until('it was tried in vain three times to start it', () => starts > 3)
    expect([result, cluster.runs()]).toEqual([
      [{ why: expect.any(String), more: expect.stringContaining('server.log') }],
      false,
    ])
    renameSync(`${version}-away`, version)
    await until('it is told to be well again', () => result.length > 1)
    expect([result.length, result[1], cluster.runs()]).toEqual([2, null, true])
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
    await until('npm start is ready, or has ended', () => said.includes('Ctrl-C stops everything') || started.exitCode !== null)
    expect(said).toContain('Ctrl-C stops everything')
    expect(said).toContain('Create the first administrator')
    // The application, which the database is told of by its log, and whatever else there is.
    const below = descendants(started.pid!)
    const applications = below.filter(pid => readFileSync(`/proc/${pid}/cmdline`, 'utf8').includes('.output/server'))
    expect(applications).toHaveLength(1)
    const database = postmaster({ folder: join(folder, 'postgresql') })
    expect([runs(database), (await request(`http://127.0.0.1:${port}`, '/api/health')).status]).toEqual([true, 200])
    process.kill(started.pid!, 'SIGTERM')
    await until('all of it has ended', () => ![...applications, database, ...below].some(runs))
    expect(existsSync(join(folder, 'running.json'))).toBe(false)
  })
})
