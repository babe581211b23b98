// Long work: it is done once, goes on after its process was killed, says how far it is, and stops when it is told to.
import { afterAll, beforeAll, describe, expect, inject, it } from 'vitest'
import { PARSER_VERSION } from '#core'
import type { JobLine } from '../../server/jobs/store'
import { callerFor, install, request, type Caller, type Installation } from './support/installation'

const OURS = 'saltmere-harbour.example'
let gate: Installation
let admin: Caller

beforeAll(async () => {
  gate = await install(inject('clusterFolder'), 'jobs', { SOBER_GATE_DEMO_MESSAGES: '300' })
  admin = await callerFor(gate.url, `admin@${OURS}`)
})
afterAll(() => gate.stop())

const one = async (text: string, values: unknown[] = []) =>
  (await gate.database.query(text, values)).rows[0] as Record<string, unknown>
const older = () =>
  gate.database
    .query(`update messages set parser = ${PARSER_VERSION - 1}, facts = jsonb_set(facts, '{subject}', '"otherwise"')
    where exists (select 1 from sources s where s.message_id = messages.id)`)
/** The newest job of a kind, when it is so. */
async function job(kind: string, isSo: (j: JobLine) => boolean): Promise<JobLine> {
  for (let tries = 0; tries < 600; tries++) {
    const { items } = (await admin('GET', '/api/jobs')).body as { items: JobLine[] }
    const newest = items.find(j => j.kind === kind)
    if (newest && isSo(newest)) return newest
    await new Promise(resolve => setTimeout(resolve, 100))
  }
  throw new Error(`no job “${kind}” came to be so`)
}

describe('facts of an older parser', () => {
  it('are made anew at the next start; killed in the middle the job goes on, and does nothing twice', async () => {
    const { n } = await one('select count(*)::int n from sources')
    await older()
    await gate.kill()
    // The job comes as far as this message, and there the process is killed.
    const middle = await gate.database.connect()
    await middle.query('begin')
    await middle.query(
      'select id from messages where id = (select id from messages order by id offset 150 limit 1) for update',
    )
    await gate.restart()
    admin = await callerFor(gate.url, `admin@${OURS}`)
    try {
      await job('facts', j => j.done > 0)
      await gate.kill()
    }
    finally {
      await middle.query('rollback')
      middle.release()
    }
    const killed = await one(`select state, done, total from jobs where kind = 'facts' order by id desc limit 1`)
    await gate.restart()
    admin = await callerFor(gate.url, `admin@${OURS}`)
    const done = await job('facts', j => j.state === 'done')
    expect(killed).toMatchObject({ state: 'running', total: n })
    expect(killed.done).toBeLessThan(Number(n))
    expect(done).toMatchObject({ done: n, total: n, moved: 0, act: null })
    expect(
      await one(
        `select count(*)::int n from messages where parser <> $1 and exists (select 1 from sources s where s.message_id = messages.id)`,
        [PARSER_VERSION],
      ),
    ).toEqual({ n: 0 })
    expect(await one(`select count(*)::int n from messages where facts ->> 'subject' = 'otherwise'`)).toEqual({ n: 0 })
    expect(await one(`select count(*)::int n from jobs where kind = 'facts'`)).toEqual({ n: 1 })
  })
  it('of mail of which only the record is kept, they stay: a start asks for nothing', async () => {
    await gate.kill()
    await gate.restart()
    admin = await callerFor(gate.url, `admin@${OURS}`)
    expect(await one(`select count(*)::int n from jobs where kind = 'facts'`)).toEqual({ n: 1 })
  })
})

describe('how far it is', () => {
  it('is told as events until it has ended', async () => {
    const { id } = await job('facts', () => true)
    const cookie = await signedIn('admin')
    const { status, headers, text } = await request(`${gate.url}/api/jobs/${id}`, {
      headers: { cookie, accept: 'text/event-stream' },
    })
    expect([status, headers.get('content-type')]).toEqual([200, 'text/event-stream'])
    const told = text
      .split('\n\n')
      .filter(Boolean)
      .map(e => JSON.parse(e.replace(/^data: /, '')))
    expect(told.at(-1)).toMatchObject({ id, state: 'done' })
  })
  it('is told to whom it is: a worker sees no job of others', async () => {
    const worker = await callerFor(gate.url, `worker@${OURS}`)
    const { id } = await job('facts', () => true)
    expect((await worker('GET', '/api/jobs')).body).toEqual({ items: [], next: null })
    expect([
      (await worker('GET', `/api/jobs/${id}`)).status,
      (await worker('DELETE', `/api/jobs/${id}`)).status,
    ]).toEqual([404, 404])
  })
})

describe('a job that is told to stop', () => {
  it('does not begin, where it still waits', async () => {
    const { id } = await one(`insert into jobs (kind, payload) values ('facts', '{}') returning id`)
    expect((await admin('DELETE', `/api/jobs/${id}`)).body).toMatchObject({ state: 'cancelled' })
    await gate.database.query(`select graphile_worker.add_job('job', json_build_object('id', $1::int))`, [id])
    await queueIsEmpty()
    expect(await one('select state, done from jobs where id = $1', [id])).toEqual({ state: 'cancelled', done: 0 })
  })
  it('stops after its present step, and says how far it came', async () => {
    await older()
    const { id } = await one(`insert into jobs (kind, payload) values ('facts', '{}') returning id`)
    await gate.database.query(`select graphile_worker.add_job('job', json_build_object('id', $1::int))`, [id])
    await job('facts', j => j.id === Number(id) && j.done > 0)
    await admin('DELETE', `/api/jobs/${id}`)
    const ended = await job('facts', j => j.id === Number(id) && j.state !== 'running')
    expect(['cancelled', 'done']).toContain(ended.state)
    expect(ended.done).toBeLessThanOrEqual(ended.total!)
  })
  it('of a kind that nobody knows fails, and says so', async () => {
    const { id } = await one(`insert into jobs (kind, payload) values ('riddle', '{}') returning id`)
    await gate.database.query(`select graphile_worker.add_job('job', json_build_object('id', $1::int))`, [id])
    expect(await job('riddle', j => j.state === 'failed')).toMatchObject({ error: expect.stringContaining('riddle') })
  })
})

describe('several processes on one database', () => {
  it('what one finds in the policy, all show; a change in one is in force in the other, also after its listener was lost', async () => {
    const second = await gate.beside({ SOBER_GATE_ROLES: 'web', SOBER_GATE_DEMO: '0' })
    try {
      const there = await callerFor(second.url, `admin@${OURS}`)
      const erase = async (name: string) =>
        admin('POST', '/api/rules', {
          name,
          owner: 'organisation',
          state: 'acting',
          when: { phrases: [name] },
          except: [],
          claims: [{ stop: { to: 'erase' } }],
        })
      const seenThere = async (name: string) => {
        for (let tries = 0; tries < 200; tries++) {
          const found = (await there('GET', '/api/rules')).body.items.find((r: { name: string }) => r.name === name)
          if (found?.findings.length) return found
          await new Promise(resolve => setTimeout(resolve, 100))
        }
        return null
      }
      await erase('first osprey')
      // The second process does no jobs: what it shows, the first has found.
      expect((await seenThere('first osprey')).findings.map((f: { kind: string }) => f.kind)).toContain('not confirmed')
      const tried = async (text: string) =>
        (await there('POST', '/api/try', { recipient: `worker@${OURS}`, from: 'a@b.test', subject: 's', text })).body
          .ruling.lane
      expect(await tried('first osprey')).toBe('bin')
      const { rowCount } = await gate.database.query(
        `select pg_terminate_backend(pid) from pg_stat_activity where application_name = 'sober-gate policy' and datname = `
        + `current_database()`,
      )
      expect(rowCount).toBe(2)
      await erase('second osprey')
      await expect.poll(() => tried('second osprey'), { timeout: 60_000 }).toBe('bin')
    }
    finally {
      await second.stop()
    }
  })
})

async function queueIsEmpty() {
  await expect
    .poll(async () => (await one('select count(*)::int n from graphile_worker.jobs')).n, { timeout: 60_000 })
    .toBe(0)
}

async function signedIn(account: string): Promise<string> {
  const { headers } = await request(`${gate.url}/api/session`, {
    method: 'POST',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify({ email: `${account}@${OURS}`, password: 'harbour-demo' }),
  })
  return headers
    .getSetCookie()
    .map(c => c.split(';')[0])
    .join('; ')
}
