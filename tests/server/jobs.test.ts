// Long work: it is done once, goes on after its process was killed, says how far it is, and stops when it is told to.
import { afterAll, beforeAll, describe, expect, inject, it } from 'vitest'
import { PARSER_VERSION } from '#core'
import type { JobView } from '../../server/jobs/store'
import { rule, tried } from '../support/clauses'
import { type Caller, eventsOf, request, signIn } from '../support/http'
import { install, type Installation, MEDIUM } from '../support/installation'
import { holdMessage } from '../support/questions'
import { until } from '../support/wait'

let gate: Installation
let admin: Caller

beforeAll(async () => {
  gate = await install(inject('clusterFolder'), 'jobs', { contents: MEDIUM })
  admin = await signIn(gate, 'admin')
})
afterAll(() => gate.stop())

const readOtherwise = () => gate.ask.readOtherwiseBefore(true)
/** The newest job of a kind, once it is so. */
function job(kind: string, isSo: (j: JobView) => boolean): Promise<JobView> {
  return until(`the newest job “${kind}” is as the test waits for it`, async () => {
    const { items } = (await admin('GET', '/api/jobs')).body as { items: JobView[] }
    const newest = items.find(j => j.kind === kind)
    return newest && isSo(newest) && newest
  })
}
async function restart() {
  await gate.restart()
  admin = await signIn(gate, 'admin')
}

describe('facts of an older parser', () => {
  it('are made anew at the next start; killed in the middle the job goes on, and does nothing twice', async () => {
    const n = await gate.ask.countSources()
    await readOtherwise()
    await gate.kill()
    // The job comes as far as this message, and there the process is killed.
    const middle = await holdMessage(gate.database, 150)
    await restart()
    try {
      await job('facts', j => j.done > 0)
      await gate.kill()
    }
    finally {
      await middle.end()
    }
    const [killed] = await gate.ask.jobs('facts')
    await restart()
    const done = await job('facts', j => j.state === 'done')
    expect(killed).toMatchObject({ state: 'running', total: n })
    expect(killed!.done).toBeLessThan(n)
    expect(done).toMatchObject({ done: n, total: n, moved: 0, eventId: null })
    expect([await gate.ask.countReadBy(PARSER_VERSION, false), await gate.ask.countReadOtherwise()]).toEqual([0, 0])
    expect(await gate.ask.jobs('facts')).toHaveLength(1)
  })
  it('of mail of which only the record is kept, they stay: a start asks for nothing', async () => {
    await gate.kill()
    await restart()
    expect(await gate.ask.jobs('facts')).toHaveLength(1)
  })
})

describe('how far it is', () => {
  it('is told as events until it has ended', async () => {
    const { id } = await job('facts', () => true)
    const { status, headers, text } = await request(gate.url, `/api/jobs/${id}`, {
      headers: { cookie: admin.cookie, accept: 'text/event-stream' },
    })
    expect([status, headers.get('content-type')]).toEqual([200, 'text/event-stream'])
    expect(eventsOf(text).at(-1)).toMatchObject({ id, state: 'done' })
  })
  it('is told to whom it is: a worker sees no job of others', async () => {
    const worker = await signIn(gate, 'worker')
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
    const id = await gate.ask.addJob('facts')
    expect((await admin('DELETE', `/api/jobs/${id}`)).body).toMatchObject({ state: 'cancelled' })
    await gate.ask.queueJob(id)
    await until('the queue is empty', async () => (await gate.ask.queueLength()) === 0)
    expect(await gate.ask.job(id)).toMatchObject({ state: 'cancelled', done: 0 })
  })
  it('stops after its present step, and says how far it came', async () => {
    await readOtherwise()
    const id = await gate.ask.addJob('facts')
    await gate.ask.queueJob(id)
    await job('facts', j => j.id === id && j.done > 0)
    await admin('DELETE', `/api/jobs/${id}`)
    const ended = await job('facts', j => j.id === id && j.state !== 'running')
    expect(['cancelled', 'done']).toContain(ended.state)
    expect(ended.done).toBeLessThanOrEqual(ended.total!)
  })
  it('of a kind that nobody knows fails, and says so', async () => {
    await gate.ask.queueJob(await gate.ask.addJob('riddle'))
    expect(await job('riddle', j => j.state === 'failed')).toMatchObject({ error: expect.stringContaining('riddle') })
  })
})

describe('a job that was interrupted as often as one is tried', () => {
  it('ends and says so; it would count as running for ever, and keep out all others of its kind', async () => {
    await readOtherwise()
    const middle = await holdMessage(gate.database, 150)
    const id = await gate.ask.addJob('facts')
    try {
      await gate.ask.queueJob(id)
      await job('facts', j => j.id === id && j.done > 0)
      await gate.ask.exhaustQueue()
      await gate.kill()
    }
    finally {
      await middle.end()
    }
    await restart()
    const ended = await until('the job has ended', async () => {
      const now = await gate.ask.job(id)
      return now?.state === 'failed' && now
    })
    expect(ended.error).toContain('stopped ten times')
    // The next one, which the start asked for, does what was left.
    await job('facts', j => j.id !== id && j.state === 'done')
    expect(await gate.ask.countReadOtherwise()).toBe(0)
  })
})

describe('several processes on one database', () => {
  it('what one finds in the policy, all show; a change in one is in force in the other, also after its listener was lost', async () => {
    const second = await gate.beside({ SOBER_GATE_ROLES: 'web', SOBER_GATE_DEMO: '0' })
    try {
      const there = await signIn(second, 'admin')
      const erase = (name: string) => admin('POST', '/api/rules', rule(name, { claims: [{ stop: { to: 'erase' } }] }))
      const seenThere = (name: string) =>
        until(`the other process shows what is found in “${name}”`, async () => {
          const found = (await there('GET', '/api/rules')).body.items.find((r: { name: string }) => r.name === name)
          return found?.findings.length > 0 && found
        })
      await erase('first osprey')
      // The second process does no jobs: what it shows, the first has found.
      expect((await seenThere('first osprey')).findings.map((f: { kind: string }) => f.kind)).toContain('not confirmed')
      const laneThere = async (text: string) => (await there('POST', '/api/dry-run', tried({ text }))).body.decision.lane
      expect(await laneThere('first osprey')).toBe('bin')
      expect(await gate.ask.endConnections('sober-gate policy')).toBe(2)
      await erase('second osprey')
      await until('the second rule acts in the other process', async () => (await laneThere('second osprey')) === 'bin')
    }
    finally {
      await second.stop()
    }
  })
})
