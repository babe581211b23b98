// A change whose mail takes long to count: a job counts all of it, and saves or says what has to be seen first. And harm that is no
// stopping: what is let in, and what a shorter retention deletes.
import { afterAll, beforeAll, describe, expect, inject, it } from 'vitest'
import { change, changed, putRule, rule } from '../support/clauses'
import { type Caller, signIn, undo } from '../support/http'
import { install, type Installation, MEDIUM, receive } from '../support/installation'
import { addressOf } from '../support/office'
import { holdPolicy } from '../support/questions'
import { jobEnded, until } from '../support/wait'

type Row = Record<string, any> // eslint-disable-line @typescript-eslint/no-explicit-any
let gate: Installation
let admin: Caller
let worker: Caller

beforeAll(async () => {
  // No time at all: every change that has to be counted is a job's.
  gate = await install(inject('clusterFolder'), 'checked', { contents: MEDIUM, env: { SOBER_GATE_COUNTED_WITHIN: '0' } })
  await signInBoth()
})
afterAll(() => gate.stop())

async function signInBoth() {
  admin = await signIn(gate, 'admin')
  worker = await signIn(gate, 'worker')
}

const version = () => gate.ask.latestVersion()
/** Asks for a change, and waits until the job that counts it has ended. */
async function checked(caller: Caller, changes: object[], more: object = {}): Promise<Row> {
  const { status, body } = await change(caller, changes, more)
  expect([status, typeof body.checking]).toEqual([202, 'number'])
  return await jobEnded(caller, body.checking)
}
/** A rule that finds much, and moves nothing. */
const quiet = (name: string, over: object = {}) => putRule(name, { state: 'monitor', when: { phrases: ['the'] }, ...over })

describe('a change that a job counts', () => {
  it('is saved by it where nothing speaks against it, once, and undone as any other', async () => {
    const before = await version()
    const { state, result, eventId } = await checked(admin, [quiet('one')])
    expect([state, result.saved]).toEqual(['done', { version: before + 1, eventId, job: null }])
    expect(await version()).toBe(before + 1)
    expect((await undo(admin, eventId)).status).toBe(200)
  })

  it('moves mail that is here too', async () => {
    const { state, result } = await checked(admin, [quiet('existing')], { existing: { lanes: ['inbox'], after: '2026-01-01T00:00:00Z' } })
    expect(state).toBe('done')
    expect((await jobEnded(admin, result.saved.job)).state).toBe('done')
  })

  it('that is broad is not saved: the job says what has to be seen, and it goes on once it is', async () => {
    const before = await version()
    const the = [putRule('the')]
    const { state, error, result } = await checked(admin, the)
    expect([state, await version()]).toEqual(['needsConfirmation', before])
    expect(error).toMatch(/marked wanted/)
    const { type, more } = result.problem
    expect(type).toBe('urn:sober-gate:problem:broad')
    expect(more.impact.looked).toBe(more.impact.inScope)
    expect(more.impact.sample[0]).toMatchObject({ judgement: 'wanted' })
    const done = await change(admin, the, { confirmed: { broad: true } })
    expect([done.status, done.body.version]).toEqual([200, before + 1])
    await undo(admin, done.body.eventId)
  })

  it('shows its examples to nobody else, and keeps no text of mail', async () => {
    const { id } = await checked(admin, [putRule('the')])
    expect((await worker('GET', `/api/jobs/${id}`)).status).toBe(404)
    const { items } = (await admin('GET', '/api/jobs')).body as { items: Row[] }
    expect(items.find(j => j.id === id)!.result.problem.more.impact.sample.every(Number.isInteger)).toBe(true)
  })

  it('that somebody was faster with says so, as at once', async () => {
    const made = await changed(admin, quiet('stale', { id: 'stale-rule' }))
    const base = made.version as number
    await changed(admin, quiet('stale', { id: 'stale-rule', when: { phrases: ['the', 'a'] } }))
    const { body } = await admin('POST', '/api/changes', { base, changes: [quiet('stale', { id: 'stale-rule', note: undefined })], coming: true })
    const { state, result } = (await jobEnded(admin, body.checking)) as Row
    expect([state, result.problem.status, result.problem.type]).toEqual(['failed', 409, 'urn:sober-gate:problem:stale'])
  })

  it('is not saved where it was cancelled, however late', async () => {
    const before = await version()
    const held = await holdPolicy(gate.database)
    const { body } = await change(admin, [quiet('cancelled')])
    await until('the job counts', async () => (await admin('GET', `/api/jobs/${body.checking}`)).body.state === 'running')
    await admin('DELETE', `/api/jobs/${body.checking}`)
    await held.end()
    expect((await jobEnded(admin, body.checking)).state).toBe('cancelled')
    expect(await version()).toBe(before)
  })

  it('is saved once where the process is killed in the middle', async () => {
    const before = await version()
    const held = await holdPolicy(gate.database)
    const { body } = await change(admin, [quiet('killed')])
    await until('the job counts', async () => (await admin('GET', `/api/jobs/${body.checking}`)).body.state === 'running')
    await gate.kill()
    await held.end()
    await gate.restart()
    await signInBoth()
    expect((await jobEnded(admin, body.checking)).state).toBe('done')
    expect(await version()).toBe(before + 1)
  })
})

describe('letting in is harm, too', () => {
  /** A rule that holds some messages away, so many of them marked unwanted. */
  async function stopping(name: string, unwanted: number, count = 4): Promise<Row> {
    const value = rule(name, { id: `rule-${name}`, when: { phrases: [`qqx ${name}`] } })
    await changed(admin, { type: 'put', kind: 'rule', value })
    const ids: number[] = []
    for (let i = 0; i < count; i++)
      ids.push((await receive(gate, { from: `sender${i}@of-${name}.example`, to: addressOf('worker'), subject: `qqx ${name} ${i}` })).id)
    if (unwanted) await admin('POST', '/api/copies/judgement', { ids: ids.slice(0, unwanted), value: 'unwanted', versions: 'any' })
    return value
  }
  const put = (value: Row, over: object = {}) => ({ type: 'put', kind: 'rule', value: { ...value, ...over } })

  it.each<[string, (value: Row) => object]>([
    ['disabling the rule', value => put(value, { state: 'disabled' })],
    ['deleting it', value => ({ type: 'remove', kind: 'rule', id: value.id })],
    ['removing its phrase', value => put(value, { when: { phrases: ['something else'] } })],
    ['an exception', value => put(value, { except: [{ phrases: [value.when.phrases[0]] }] })],
  ])('%s asks before it lets in what somebody marked unwanted, the worst first', async (name, changing) => {
    const value = await stopping(name.replaceAll(' ', '-'), 2)
    const { state, error, result } = await checked(admin, [changing(value)])
    expect([state, error]).toEqual(['needsConfirmation', expect.stringMatching(/let in 4 stopped messages, 2 of them marked unwanted/)])
    expect((result.problem.more.impact.sample as Row[]).map(c => c.judgement)).toEqual(['unwanted', 'unwanted', null, null])
    expect((await change(admin, [changing(value)], { confirmed: { broad: true } })).status).toBe(200)
  })

  it('does not ask where it lets in a little that nobody marked', async () => {
    const value = await stopping('quiet', 0)
    expect((await checked(admin, [put(value, { state: 'disabled' })])).state).toBe('done')
  })
})

describe('a shorter retention', () => {
  const settings = async () => (await admin('GET', '/api/settings')).body as Row
  const retain = async (retention: object, more: object = {}) =>
    admin('PUT', '/api/settings', { version: (await settings()).version, retention: { attempts: null, ...retention }, ...more })

  it('says how many messages it deletes, asks for the number, and is not undone into deleting either', async () => {
    expect((await retain({ bin: 3650, spam: null })).status).toBe(200)
    const due = await gate.ask.countCopies({ lane: 'spam' })
    expect(due).toBeGreaterThan(10)
    await gate.ask.ageMessagesBut('', 400)
    const asked = await retain({ bin: 3650, spam: 1 })
    expect([asked.status, asked.body.type]).toEqual([422, 'urn:sober-gate:problem:erases'])
    const { erases } = asked.body as { erases: number }
    // What came within a day stays.
    expect(erases).toBeGreaterThan(10)
    expect(erases).toBeLessThanOrEqual(due)
    expect(asked.body.detail).toMatch(new RegExp(`deletes ${erases} messages permanently within a day: ${erases} in Spam older than 1 day`))
    expect((await settings()).retention.spam).toBeNull()
    expect((await retain({ bin: 3650, spam: 1 }, { confirmed: { erases: erases - 1 } })).status).toBe(422)
    const done = await retain({ bin: 3650, spam: 1 }, { confirmed: { erases } })
    expect([done.status, (await settings()).retention.spam]).toEqual([200, 1])
    // Longer asks nothing; but to undo that is shorter again.
    const longer = await retain({ bin: 3650, spam: 3650 })
    expect(longer.status).toBe(200)
    const back = await undo(admin, longer.body.eventId)
    expect([back.status, back.body.type]).toEqual([422, 'urn:sober-gate:problem:erases'])
  })
})
