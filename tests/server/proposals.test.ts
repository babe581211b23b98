// Changes beyond one's power: proposed, seen by whoever may decide, saved or declined, and whoever proposed them is told.
import { afterAll, beforeAll, describe, expect, inject, it } from 'vitest'
import { blocking, change, list, putRule, versionFor } from '../support/clauses'
import { type Caller, signIn, undo } from '../support/http'
import { install, type Installation, MEDIUM, receive } from '../support/installation'
import { ownerOf, personOf } from '../support/office'
import { until } from '../support/wait'

const WORKER_ID = personOf('worker')
let gate: Installation
let admin: Caller
let worker: Caller
let reviewer: Caller

beforeAll(async () => {
  gate = await install(inject('clusterFolder'), 'proposals', { contents: MEDIUM })
  admin = await signIn(gate, 'admin')
  worker = await signIn(gate, 'worker')
  reviewer = await signIn(gate, 'reviewer')
})
afterAll(() => gate.stop())

type Row = Record<string, any> // eslint-disable-line @typescript-eslint/no-explicit-any
const version = () => versionFor(admin)
const ruleOf = async (id: string) => {
  const {
    ownerName: _o,
    sentence: _s,
    impact: _i,
    lastHit: _l,
    findings: _f,
    version: _v,
    canChange: _m,
    stats: _r,
    ...rule
  } = (await admin('GET', `/api/rules/${id}`)).body
  return rule as Row
}
async function propose(caller: Caller, changes: object[], more: object = {}) {
  return caller('POST', '/api/proposals', { base: await version(), changes, note: 'because', ...more })
}
const answer = (caller: Caller, id: number, body: object) => caller('POST', `/api/proposals/${id}/answer`, body)
const shown = async (caller: Caller, id: number) =>
  (await caller('GET', '/api/proposals')).body.items.find((p: Row) => p.id === id) as Row | undefined
const laneOf = async (from: string, subject: string) => (await receive(gate, { from, subject })).lane

describe('a proposal', () => {
  it('changes nothing until it is answered; accepted it is in force, and whoever proposed it is told', async () => {
    const { body: made } = await propose(worker, [blocking('boat@seller.test')])
    expect(await laneOf('boat@seller.test', 'before')).toBe('inbox')
    expect(await shown(worker, made.id)).toMatchObject(
      { state: 'open', mine: true, canAnswer: false, note: 'because', since: null, hindered: null },
    )
    const seen = await shown(admin, made.id)
    expect(seen).toMatchObject({ canAnswer: true, by: expect.any(String) })
    expect(seen!.words).toContain('boat@seller.test')
    expect((await admin('GET', '/api/proposals')).body.waiting).toBeGreaterThan(0)
    const { status, body } = await answer(admin, made.id, { accept: true })
    expect([status, body.state, body.version]).toEqual([200, 'accepted', await version()])
    expect(await laneOf('boat@seller.test', 'after')).toBe('spam')
    expect(await shown(worker, made.id)).toMatchObject({ state: 'accepted', news: true, answeredBy: expect.any(String) })
    expect((await worker('GET', '/api/proposals?count=yes')).body).toEqual({ items: [], waiting: 0, news: 1, all: expect.any(Number) })
    expect((await worker('POST', '/api/proposals/seen', { ids: [made.id] })).body).toMatchObject({ waiting: 0, news: 0 })
  })

  it('brings the mail that it is about along, and one press takes all of it back: then it waits again', async () => {
    const honest = { person: WORKER_ID, lane: 'quarantine', sender: 'accounts@quayline.example', decidedBy: 'Fee demands' } as const
    const held = await gate.ask.oneCopy(honest)
    const rule = await ruleOf('fee-demands')
    const changed = { ...rule, except: [...rule.except, { sender: { kind: 'address', value: held.senderAddress } }] }
    const { body: made } = await propose(worker, [{ type: 'put', kind: 'rule', value: changed }], { ids: [held.id] })
    const seen = await shown(admin, made.id)
    expect(seen!.copies.map((c: Row) => c.id)).toEqual([held.id])
    const existing = { lanes: [], ids: seen!.copies.map((c: Row) => c.id) }
    const { body } = await answer(admin, made.id, { accept: true, existing, confirmed: { broad: true } })
    expect(body.job).not.toBeNull()
    const lane = async () => (await gate.ask.copy(held.id)).lane
    await until('the held copy is let out', async () => (await lane()) !== 'quarantine')
    expect((await undo(admin, body.eventId)).status).toBe(200)
    expect(await lane()).toBe('quarantine')
    expect(await shown(worker, made.id)).toMatchObject({ state: 'open', answeredBy: null, eventId: null })
    expect((await ruleOf('fee-demands')).except).toEqual(rule.except)
  })

  it('declined says why; without a reason it is not declined; taken back it waits again', async () => {
    const { body: made } = await propose(worker, [blocking('other@seller.test')])
    expect((await answer(admin, made.id, { accept: false })).body.fields).toHaveProperty('reason')
    const { body } = await answer(admin, made.id, { accept: false, reason: 'they are a customer' })
    expect(await shown(worker, made.id)).toMatchObject({ state: 'declined', reason: 'they are a customer', news: true })
    expect((await answer(admin, made.id, { accept: true })).status).toBe(409)
    expect((await undo(admin, body.eventId)).status).toBe(200)
    expect(await shown(admin, made.id)).toMatchObject({ state: 'open', reason: null })
  })

  it('that went stale says against what, and is not put over it unseen', async () => {
    const rule = await ruleOf('catalogues')
    const changes = [{ type: 'put', kind: 'rule', value: { ...rule, description: 'proposed' } }]
    // On a version that is still to come it could never go stale.
    expect((await propose(worker, changes, { base: 2_000_000_000 })).status).toBe(422)
    const { body: made } = await propose(worker, changes)
    const meanwhile = { ...rule, description: 'changed meanwhile' }
    expect((await change(admin, [{ type: 'put', kind: 'rule', value: meanwhile }])).status).toBe(200)
    const seen = await shown(admin, made.id)
    expect(seen!.since[0]).toMatchObject({ version: await version(), words: expect.stringContaining('Catalogues') })
    const refused = await answer(admin, made.id, { accept: true })
    expect([refused.status, refused.body.type]).toEqual([409, 'urn:sober-gate:problem:stale'])
    expect((await ruleOf('catalogues')).description).toBe('changed meanwhile')
    expect((await answer(admin, made.id, { accept: true, base: await version(), confirmed: { broad: true } })).status).toBe(200)
    expect((await ruleOf('catalogues')).description).toBe('proposed')
  })

  it('keeps what came since beside it, and says before what it would replace: nobody’s newer exception is dropped', async () => {
    const rule = await ruleOf('catalogues')
    const exception = (value: string) => ({ sender: { kind: 'address', value } })
    const put = (over: object) => ({ type: 'put', kind: 'rule', value: { ...rule, ...over } })
    const { body: made } = await propose(worker, [put({ except: [...rule.except, exception('mine@seller.test')] })])
    const newer = [...rule.except, exception('theirs@seller.test')]
    expect((await change(admin, [put({ except: newer, description: 'newer' })])).status).toBe(200)
    const seen = (await shown(admin, made.id))!
    expect([seen.since.length, seen.replaces]).toEqual([1, []])
    expect(seen.changes[0].value.except).toEqual([...newer, exception('mine@seller.test')])
    expect((await answer(admin, made.id, { accept: true, base: await version(), confirmed: { broad: true } })).status).toBe(200)
    const { except, description } = await ruleOf('catalogues')
    expect({ except, description }).toEqual({ except: [...newer, exception('mine@seller.test')], description: 'newer' })
    // Where both change the same, that is said.
    const { body: other } = await propose(worker, [put({ except, description: 'proposed again' })])
    expect((await change(admin, [put({ except, description: 'newest' })])).status).toBe(200)
    expect((await shown(admin, other.id))!.replaces).toEqual(['description of “Catalogues”'])
    await answer(admin, other.id, { accept: false, reason: 'no' })
  })

  it('goes stale by a change to the same thing alone: not by another order, another rule, or what was undone', async () => {
    const rule = await ruleOf('catalogues')
    const { body: made } = await propose(worker, [{ type: 'put', kind: 'rule', value: { ...rule, description: 'only this' } }])
    const { body: before } = await admin('GET', '/api/rules')
    const own = (before.items as Row[]).filter(r => r.owner === rule.owner).map(r => r.id as string)
    expect((await change(admin, [{ type: 'order', kind: 'rule', owner: rule.owner, ids: own.toReversed() }])).status).toBe(200)
    expect((await change(admin, [putRule('another thing')])).status).toBe(200)
    const { eventId } = (await change(admin, [{ type: 'put', kind: 'rule', value: { ...rule, description: 'for a moment' } }])).body
    expect((await shown(admin, made.id))!.since).not.toBeNull()
    expect((await undo(admin, eventId)).status).toBe(200)
    expect((await shown(admin, made.id))!.since).toBeNull()
    expect((await answer(admin, made.id, { accept: true, confirmed: { broad: true } })).status).toBe(200)
    expect((await ruleOf('catalogues')).description).toBe('only this')
  })

  it('of what is gone meanwhile says so, and is refused in words', async () => {
    const { body: short } = await admin('POST', '/api/lists', list('Short-lived'))
    const { body: made } = await propose(worker, [blocking('x@short.test', short.id)])
    const { version: seen } = (await admin('GET', `/api/lists/${short.id}`)).body
    expect((await admin('DELETE', `/api/lists/${short.id}?version=${seen}`)).status).toBe(200)
    expect((await shown(admin, made.id))!.hindered).toEqual(expect.any(String))
    expect((await answer(admin, made.id, { accept: true })).status).toBe(409)
  })

  it('is taken back by whoever proposed it, and then nobody finds it', async () => {
    const { body: made } = await propose(worker, [blocking('back@seller.test')])
    // Nobody else makes it vanish: it is answered, and its proposer hears.
    expect((await undo(admin, made.eventId)).status).toBe(403)
    expect((await undo(worker, made.eventId)).status).toBe(200)
    expect([await shown(worker, made.id), await shown(admin, made.id)]).toEqual([undefined, undefined])
    expect((await answer(admin, made.id, { accept: true })).status).toBe(404)
  })

  it('of two who answer at the same time is answered once', async () => {
    const { body: made } = await propose(worker, [blocking('race@seller.test')])
    const answers = await Promise.all([
      answer(admin, made.id, { accept: true }),
      answer(admin, made.id, { accept: false, reason: 'no' }),
      answer(admin, made.id, { accept: true }),
    ])
    expect(answers.map(a => a.status).sort()).toEqual([200, 409, 409])
    const { state } = (await shown(admin, made.id))!
    expect(await gate.ask.countEntries({ value: 'race@seller.test' })).toBe(state === 'accepted' ? 1 : 0)
  })
})

describe('what is nobody’s to propose, or to read', () => {
  it('is one’s own, another’s own, what one does not see, nothing at all, and what is in force already', async () => {
    const status = async (changes: object[]) => (await propose(worker, changes)).status
    const ruleOf = (owner: string) => putRule('x', { owner })
    expect(await status([ruleOf(ownerOf('worker'))])).toBe(403)
    expect(await status([ruleOf(ownerOf('reviewer'))])).toBe(403)
    // As one that there is: which there are is not for everybody to know.
    expect(await status([ruleOf('department:nowhere')])).toBe(403)
    expect(await status([ruleOf(`department:${await gate.ask.departmentWithout(WORKER_ID)}`)])).toBe(403)
    expect(await status([{ type: 'remove', kind: 'rule', id: 'nowhere' }])).toBe(409)
    expect(await status([blocking('nobody@nowhere.test', 'nowhere')])).toBe(409)
    expect(await status([blocking('boat@seller.test')])).toBe(422)
  })

  it('is mail that one does not see: a proposal lends nobody’s mail to anybody', async () => {
    const others = await gate.ask.oneCopy({ notPerson: WORKER_ID, lane: 'inbox' })
    expect((await propose(worker, [blocking('m@seller.test')], { ids: [others.id] })).status).toBe(404)
  })

  it('others’ proposals: a colleague neither finds nor answers them', async () => {
    const { body: made } = await propose(worker, [blocking('c@seller.test')])
    expect(await shown(reviewer, made.id)).toBeUndefined()
    expect((await answer(reviewer, made.id, { accept: true })).status).toBe(403)
    expect((await answer(worker, made.id, { accept: true })).status).toBe(403)
    await reviewer('POST', '/api/proposals/seen', { ids: [made.id] })
    await answer(admin, made.id, { accept: false, reason: 'no' })
    expect(await shown(worker, made.id)).toMatchObject({ news: true })
  })

  it('impact for a proposal is told among one’s own mail only, and to nobody for what they could not propose', async () => {
    const changes = [putRule('the')]
    const { body } = await worker('POST', '/api/impact', { changes, proposed: true })
    expect([body.inScope, body.recipients]).toEqual([await gate.ask.countCopies({ person: WORKER_ID }), 1])
    expect((await worker(
      'POST',
      '/api/impact',
      { changes: [putRule('the', { owner: ownerOf('reviewer') })], proposed: true },
    )).status).toBe(403)
  })

  it('a sketch for the whole organisation is made of one’s own mail, and says that it can only be proposed', async () => {
    const mine = await gate.ask.oneCopy({ person: WORKER_ID, lane: 'inbox' })
    const { body } = await worker('POST', '/api/suggestions', { ids: [mine.id], owner: 'organisation' })
    expect(body.beyond).toBe(true)
    expect(body.candidates.every((c: Row) => c.impact.recipients <= 1)).toBe(true)
    expect((await worker('POST', '/api/suggestions', { ids: [mine.id], owner: ownerOf('reviewer') })).status).toBe(403)
  })

  it('one person’s proposals are bounded: nobody fills the list that administrators read', async () => {
    const made = await Promise.all(Array.from({ length: 60 }, (_, i) => propose(reviewer, [blocking(`n${i}@many.test`)])))
    expect(made.filter(m => m.status === 200)).toHaveLength(50)
    expect(made.filter(m => m.status === 422)).toHaveLength(10)
  })
})
