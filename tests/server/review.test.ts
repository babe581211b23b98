// Held and binned mail: found in its order, let out or rejected, asked for, fixed, returned, and cleared away.
import { afterAll, beforeAll, describe, expect, inject, it } from 'vitest'
import { change, changed, holding, rule, versionFor } from '../support/clauses'
import { type Caller, eventsOf, signIn, undo } from '../support/http'
import { removeQuarantine, setQuarantine } from '../support/settings'
import { install, type Installation, MEDIUM, receive, TOKEN } from '../support/installation'
import { addressOf, OURS, personOf } from '../support/office'
import { daysAgo, holdCopies } from '../support/questions'
import { handOver, plainMessage, smtp } from '../support/smtp'
import { jobEnded, until } from '../support/wait'

const WORKER_ID = personOf('worker')
let gate: Installation
let admin: Caller
let worker: Caller
let reviewer: Caller

beforeAll(async () => {
  gate = await install(inject('clusterFolder'), 'review', { contents: MEDIUM })
  admin = await signIn(gate, 'admin')
  worker = await signIn(gate, 'worker')
  reviewer = await signIn(gate, 'reviewer')
})
afterAll(() => gate.stop())

type Row = Record<string, any> // eslint-disable-line @typescript-eslint/no-explicit-any
const copyOf = (id: number) => gate.ask.copy(id)
const groups = async (caller: Caller, query = '') => (await caller('GET', `/api/review?${query}`)).body as { groups: Row[], total: number }
const items = async (caller: Caller, query = '') => (await caller('GET', `/api/review/items?${query}`)).body.items as Row[]
const version = () => versionFor(admin)
const receiveFrom = (from: string, subject: string, text?: string, to?: string) => receive(gate, { from, subject, text, to })
/** The same by the relay that verified the sender. */
const receiveVerified = (from: string, subject: string, text?: string) => receive(gate, { from, subject, text, relay: true })
const untilWaiting = (statement: string) => until(`a statement like ${statement} waits for a lock`, () => gate.ask.countWaiting(statement))
/** What the general quarantine holds. */
const HELD = { lane: 'quarantine', quarantine: 'general' } as const

describe('a review', () => {
  it('groups by what put mail there, by sender and by subject, and every copy is in exactly one group', async () => {
    const held = await gate.ask.countCopies(HELD)
    for (const by of ['clause', 'sender', 'subject']) {
      const { groups: found, total } = await groups(reviewer, `by=${by}`)
      expect([by, total]).toEqual([by, held])
      expect(found.reduce((n, g) => n + g.copies, 0)).toBe(total)
      expect(new Set(found.map(g => g.key)).size).toBe(found.length)
      for (const g of found.slice(0, 3))
        expect((await items(reviewer, `by=${by}&key=${encodeURIComponent(g.key)}&limit=200`)).length).toBe(g.copies)
    }
    const { groups: byClause } = await groups(reviewer, 'by=clause')
    expect(byClause[0]).toMatchObject({ key: 'asked', words: 'release requested by the recipient' })
    expect(byClause.map(g => g.words)).toContain('rule “Fee demands”')
  })

  it('shows the likeliest mistakes first, each with its reason, page by page and none twice', async () => {
    const seen: Row[] = []
    for (let next = ''; ;) {
      const { body } = await reviewer('GET', `/api/review/items?limit=7${next && `&cursor=${next}`}`)
      seen.push(...body.items)
      if (!body.next) break
      next = body.next
    }
    const held = await gate.ask.countCopies(HELD)
    expect(new Set(seen.map(i => i.id)).size).toBe(held)
    const likely = await Promise.all(seen.map(async i => (await copyOf(i.id)).likely as number))
    expect(likely).toEqual([...likely].sort((a, b) => b - a))
    expect(seen[0]).toMatchObject(
      { likely: true, why: [expect.stringContaining('requests it'), ...seen[0]!.why.slice(1)], asked: { note: expect.any(String) } },
    )
  })

  it('puts a copy elsewhere in the order as soon as its siblings are judged', async () => {
    await changed(admin, holding('order-rule', 'zebra crossing'))
    const one = await receiveVerified('a@order.test', 'order one', 'zebra crossing')
    const two = await receiveVerified('a@order.test', 'order two', 'zebra crossing')
    await groups(admin)
    const before = (await copyOf(two.id)).likely
    await admin('POST', '/api/copies/judgement', { ids: [one.id], versions: 'any', value: 'wanted' })
    await groups(admin)
    const after = await copyOf(two.id)
    expect(after.likely).toBeGreaterThan(before)
    expect(after.likelyWhy).toContainEqual({ kind: 'senderWanted', wanted: 1, of: 1 })
  })

  it('tells a worker of their own mail only, and counts nothing of what others get', async () => {
    for (const lane of ['spam', 'bin', 'lowPriority', 'quarantine'])
      for (const item of await items(worker, `lane=${encodeURIComponent(lane)}&limit=200`))
        expect((await copyOf(item.id)).personId).toBe(WORKER_ID)
    const { body: places } = await worker('GET', '/api/review/places')
    const own = await gate.ask.countCopies({ lane: 'spam', person: WORKER_ID, isMarked: false })
    expect(places.find((p: Row) => p.lane === 'spam').copies).toBe(own)
    expect(places.filter((p: Row) => p.lane === 'quarantine').every((p: Row) => p.own)).toBe(true)
    // Why a held copy stands where it stands speaks of everybody's mail.
    for (const item of await items(worker, 'limit=200')) expect([item.likely, item.why]).toEqual([false, []])
    for (const g of (await groups(worker)).groups) expect([g.likelyWanted, g.why]).toEqual([0, ''])
    // Elsewhere a clause's record is what it did to one's own mail.
    for (const item of await items(worker, 'lane=bin&limit=200')) {
      for (const why of (await copyOf(item.id)).likelyWhy as Row[]) {
        if (why.kind !== 'oftenWrong') continue
        expect(why.of).toBeLessThanOrEqual(await gate.ask.countCopies({ person: WORKER_ID, isMarked: true }))
      }
    }
  })

  it('reads on by a cursor that it gave out, and by no other', async () => {
    const cursor = (numbers: unknown) => Buffer.from(JSON.stringify(numbers)).toString('base64url')
    for (const odd of ['x', cursor([1]), cursor(['1', '2']), cursor({ at: 1 })])
      expect((await admin('GET', `/api/review/items?cursor=${odd}`)).status).toBe(400)
    expect((await admin('GET', `/api/review/items?lane=spam&soon=true&cursor=${cursor([9e15, 1])}`)).status).toBe(400)
    // Numbers that no copy has are a page like any other.
    expect((await admin('GET', `/api/review/items?cursor=${cursor([2 ** 40, 1])}`)).status).toBe(200)
  })

  it('asks for those five whose judgement says most: one of a sender', async () => {
    const five = await items(reviewer, 'informative=true')
    expect(five.length).toBeGreaterThan(0)
    expect(five.length).toBeLessThanOrEqual(5)
    expect(new Set(five.map(i => i.sender)).size).toBe(five.length)
  })
})

describe('letting out and rejecting', () => {
  it('is one act with what it says of the mail, and one press takes both back', async () => {
    await changed(admin, holding('let-out', 'yellow parrot'))
    const copy = await receiveFrom('b@let.test', 'let out', 'yellow parrot')
    const { body } = await reviewer('POST', '/api/copies/lane', { ids: [copy.id], versions: 'any', lane: 'inbox', mark: 'wanted' })
    expect(await copyOf(copy.id)).toMatchObject({ lane: 'inbox', judgement: 'wanted', judgementStrength: 'said' })
    await undo(reviewer, body.eventId)
    expect(await copyOf(copy.id)).toMatchObject({ lane: 'quarantine', judgement: null })
    const toBin = { ids: [copy.id], versions: 'any', lane: 'bin', mark: 'unwanted', reason: 'a forgery' }
    const { body: no } = await reviewer('POST', '/api/copies/lane', toBin)
    expect(await copyOf(copy.id)).toMatchObject({ lane: 'bin', judgement: 'unwanted' })
    const auditEvents = (await reviewer('GET', '/api/audit-events?mine=true')).body.items as Row[]
    expect(auditEvents.find(a => a.id === no.eventId)!.words).toBe('moved 1 message to Bin as unwanted: a forgery')
  })

  it('tells the later of two reviewers that somebody was faster, and does nothing twice', async () => {
    const copy = await receiveFrom('b@let.test', 'two of us', 'yellow parrot')
    const { version: seen } = await copyOf(copy.id)
    const both = await Promise.all([reviewer, admin].map(
      who => who('POST', '/api/copies/lane', { ids: [copy.id], lane: 'inbox', mark: 'wanted', versions: { [copy.id]: seen } }),
    ))
    expect(both.map(b => b.status).sort()).toEqual([200, 409])
    expect(await gate.ask.eventsOn(copy.id, 'released')).toHaveLength(1)
    // By numbers alone nobody reads what messages are about.
    const late = await reviewer('POST', '/api/copies/lane', { ids: [copy.id], versions: 'any', lane: 'inbox' })
    expect([late.status, late.body.detail.includes('two of us')]).toEqual([409, false])
  })

  it('names the version of each message that it is about, or says that any will do', async () => {
    const copy = await receiveFrom('v@let.test', 'versions', 'yellow parrot')
    const other = await receiveFrom('w@let.test', 'versions too', 'yellow parrot')
    const move = (form: object) => reviewer('POST', '/api/copies/lane', { lane: 'bin', mark: 'unwanted', ...form })
    expect((await move({ ids: [copy.id] })).status).toBe(422)
    expect((await move({ ids: [copy.id, other.id], versions: { [copy.id]: (await copyOf(copy.id)).version } })).status).toBe(422)
    expect((await move({ ids: [copy.id], versions: { [copy.id]: 99 } })).status).toBe(409)
    expect((await copyOf(copy.id)).lane).toBe('quarantine')
    const { version: seen } = await copyOf(copy.id)
    expect((await move({ ids: [copy.id], versions: { [copy.id]: seen } })).status).toBe(200)
  })
})

describe('a quarantine', () => {
  it('is its reviewers’ alone: another reviewer neither sees what it holds, nor lets it out, nor counts it', async () => {
    const { body: made } = await admin('POST', '/api/quarantines', { name: 'Confidential' })
    await changed(admin, holding('secret', 'green ledger', made.id))
    const copy = await receiveFrom('c@secret.test', 'a secret', 'green ledger')
    expect((await reviewer('GET', `/api/copies/${copy.id}`)).status).toBe(200)
    const set = await setQuarantine(admin, made.id, { reviewers: [personOf('admin')], visible: false })
    expect([set.status, set.body.settings]).toEqual([200, expect.objectContaining({ visible: false, canRequest: false })])
    for (const [method, path, body] of [
      ['GET', `/api/copies/${copy.id}`, undefined],
      ['GET', `/api/copies/${copy.id}/source`, undefined],
      ['POST', '/api/copies/lane', { ids: [copy.id], versions: 'any', lane: 'inbox' }],
      ['POST', '/api/copies/judgement', { ids: [copy.id], versions: 'any', value: 'wanted' }],
      ['POST', '/api/fixes', { ids: [copy.id] }],
    ] as const) {
      expect([path, (await reviewer(method, path, body)).status]).toEqual([path, 404])
      // Nor does its own reader see that there is something.
      expect([path, (await worker(method, path, body)).status]).toEqual([path, 404])
    }
    // Nor does anybody else put mail there, one by one or all that matches.
    const held = await receiveFrom('c@let.test', 'not for there', 'yellow parrot')
    for (const which of [{ ids: [held.id], versions: 'any' }, { query: { sender: 'c@let.test' } }])
      expect((await reviewer('POST', '/api/copies/lane', { ...which, lane: 'quarantine', quarantine: made.id })).status).toBe(403)
    expect((await groups(reviewer, `quarantine=${made.id}`)).total).toBe(0)
    expect((await reviewer('GET', '/api/review/places')).body.map((p: Row) => p.quarantine)).not.toContain(made.id)
    expect((await groups(admin, `quarantine=${made.id}`)).total).toBe(1)
    // Whoever may release nothing is no reviewer.
    expect((await setQuarantine(admin, made.id, { reviewers: [WORKER_ID] })).status).toBe(422)
    // Two who undo it at once undo it once.
    const undone = await Promise.all([admin, admin].map(who => undo(who, set.body.eventId)))
    expect(undone.map(u => u.status).sort()).toEqual([200, 409])
    expect((await reviewer('GET', `/api/copies/${copy.id}`)).status).toBe(200)
  })

  it('that is gone loses nobody’s mail: what a hand puts back there is shown, and can be let out', async () => {
    const { body: made } = await admin('POST', '/api/quarantines', { name: 'Gone soon' })
    await changed(admin, holding('gone', 'teal heron', made.id, { mandatory: false }))
    const copy = await receiveFrom('d@gone.test', 'gone', 'teal heron')
    const { body: letOut } = await reviewer('POST', '/api/copies/lane', { ids: [copy.id], versions: 'any', lane: 'inbox' })
    expect((await removeQuarantine(admin, made.id)).status).toBe(200)
    expect((await undo(reviewer, letOut.eventId)).status).toBe(200)
    const places = async () => ((await reviewer('GET', '/api/review/places')).body as Row[]).filter(p => p.quarantine === made.id)
    expect(await places()).toMatchObject([{ lane: 'quarantine', name: 'a deleted quarantine', copies: 1 }])
    expect((await items(reviewer, `quarantine=${made.id}`)).map(i => i.id)).toEqual([copy.id])
    await changed(admin, { type: 'remove', kind: 'rule', id: 'gone' })
    expect((await reviewer('POST', '/api/copies/lane', { ids: [copy.id], versions: 'any', lane: 'inbox' })).status).toBe(200)
    expect([await places(), (await copyOf(copy.id)).lane]).toEqual([[], 'inbox'])
  })

  it('that is deleted says where its mail goes: rules hold there from then on, and undo brings all of it back', async () => {
    const { body: made } = await admin('POST', '/api/quarantines', { name: 'Short-lived' })
    await changed(admin, holding('brief', 'blue heron', made.id))
    const copy = await receiveFrom('d@brief.test', 'brief', 'blue heron')
    expect((await admin('DELETE', `/api/quarantines/${made.id}`)).status).toBe(400)
    expect((await removeQuarantine(admin, 'general')).status).toBe(422)
    const { status, body } = await removeQuarantine(admin, made.id)
    expect([status, body.moved]).toEqual([200, 1])
    expect((await copyOf(copy.id)).quarantineId).toBe('general')
    expect((await receiveFrom('d@brief.test', 'brief again', 'blue heron')).quarantineId).toBe('general')
    expect((await undo(admin, body.eventId)).status).toBe(200)
    expect((await copyOf(copy.id)).quarantineId).toBe(made.id)
  })

  it('that is deleted takes people’s own rules and lists along, and nothing else of them; what they are called stays theirs', async () => {
    const { body: made } = await admin('POST', '/api/quarantines', { name: 'For a while' })
    const id = 'private matter'
    const claims = [{ stop: { to: 'quarantine', quarantine: made.id } }]
    const own = rule(id, { when: { phrases: ['ivory tern'] }, owner: `person:${WORKER_ID}`, claims })
    const kept = await worker('POST', '/api/rules', own)
    expect([kept.status, kept.body.detail]).toEqual([201, undefined])
    const list = { id: 'private-callers', name: 'Private callers', owner: own.owner, usualSide: 'block', enabled: true }
    const assignment = { list: list.id, owner: own.owner, side: 'block', state: 'enabled', stop: { to: 'quarantine', quarantine: made.id } }
    const entries = [{ kind: 'address', value: 'caller@tern.test' }]
    const changes = [
      { type: 'put', kind: 'list', value: list },
      { type: 'put', kind: 'entries', list: list.id, entries },
      { type: 'put', kind: 'assignment', value: assignment },
    ]
    const used = await change(worker, changes, { confirmed: { broad: true } })
    expect([used.status, used.body.detail]).toEqual([200, undefined])
    const ruleNow = async () => (await worker('GET', '/api/rules')).body.items.find((r: Row) => r.name === id) as Row
    const before = await ruleNow()
    const { status, body } = await removeQuarantine(admin, made.id)
    expect([status, body.detail]).toEqual([200, undefined])
    const { when, except, state, owner } = before
    expect(await ruleNow()).toMatchObject({ when, except, state, owner, claims: [{ stop: { to: 'quarantine', quarantine: 'general' } }] })
    expect((await receiveFrom('d@tern.test', 'tern', 'ivory tern')).quarantineId).toBe('general')
    expect((await receiveFrom('caller@tern.test', 'tern calls')).quarantineId).toBe('general')
    const auditEvents = (await admin('GET', '/api/audit-events')).body.items as Row[]
    expect(auditEvents.find(a => a.id === body.eventId)!.words).toMatch(/^Deleted quarantine “For a while”/)
    for (const theirs of [id, list.name]) expect(JSON.stringify(auditEvents.find(a => a.id === body.eventId))).not.toContain(theirs)
    expect((await undo(admin, body.eventId)).status).toBe(200)
    expect((await ruleNow()).claims).toEqual(before.claims)
    expect((await receiveFrom('caller@tern.test', 'tern calls again')).quarantineId).toBe(made.id)
    // What is more than that is theirs alone to change, also beside a quarantine that goes.
    const notReleased = [{ stop: { to: 'quarantine', quarantine: 'general' } }]
    const alone = async (more: object) => {
      const theirs = { ...own, id: before.id, claims: notReleased, ...more }
      const { id: useId } = await gate.ask.useOf(list.id)
      const moved = { ...assignment, id: useId, stop: notReleased[0]!.stop }
      const changes = [
        { type: 'put', kind: 'rule', value: theirs },
        { type: 'put', kind: 'assignment', value: moved },
        { type: 'remove', kind: 'quarantine', id: made.id },
      ]
      return (await change(admin, changes, { confirmed: { broad: true } })).status
    }
    for (const more of [{ state: 'disabled' }, { claims: [{ stop: { to: 'bin' } }] }, { name: 'another' }, { when: { phrases: ['tern'] } }])
      expect([more, await alone(more)]).toEqual([more, 404])
    expect((await ruleNow()).claims).toEqual(before.claims)
    expect(await alone({})).toBe(200)
  })

  it('lets recipients release their own where that is settled, and only then', async () => {
    const { body: made } = await admin('POST', '/api/quarantines', { name: 'Own judgement' })
    await changed(admin, holding('own', 'grey gull', made.id))
    const copy = await receiveFrom('e@own.test', 'own', 'grey gull')
    expect((await worker('POST', '/api/copies/lane', { ids: [copy.id], versions: 'any', lane: 'inbox' })).status).toBe(403)
    await setQuarantine(admin, made.id, { canRelease: true })
    expect((await worker('POST', '/api/copies/lane', { ids: [copy.id], versions: 'any', lane: 'bin' })).status).toBe(403)
    expect((await worker('POST', '/api/copies/lane', { ids: [copy.id], versions: 'any', lane: 'inbox' })).status).toBe(200)
    expect((await copyOf(copy.id)).lane).toBe('inbox')
  })
})

describe('asking for held mail', () => {
  const mine = async (caller: Caller) =>
    (await caller('GET', '/api/release-requests')).body as { items: Row[], waiting: number, news: number }

  it('puts it first in the review, and the answer reaches whoever asked, whichever way it was given', async () => {
    await changed(admin, holding('asking', 'red kettle'))
    const [one, two, three] = [
      await receiveFrom('f@ask.test', 'ask one', 'red kettle'),
      await receiveFrom('f@ask.test', 'ask two', 'red kettle'),
      await receiveFrom('f@ask.test', 'ask three', 'red kettle'),
    ]
    const { body: asked } = await worker('POST', '/api/release-requests', { ids: [one.id, two.id, three.id], note: 'the kettles' })
    expect(asked.asked).toBe(3)
    // Twice the same is one wish.
    expect((await worker('POST', '/api/release-requests', { ids: [one.id], note: 'again' })).body).toEqual({ eventId: null, asked: 0 })
    expect((await groups(reviewer)).groups[0]!.key).toBe('asked')
    const waiting = (await mine(reviewer)).items.filter(r => r.note === 'the kettles')
    expect(waiting).toHaveLength(3)
    const idOf = (copy: { id: number }) => waiting.find(r => r.copy.id === copy.id)!.id as number
    // A no without a reason is none.
    expect((await reviewer('POST', `/api/release-requests/${idOf(one)}/answer`, { release: false })).status).toBe(422)
    expect(
      (await reviewer('POST', `/api/release-requests/${idOf(one)}/answer`, { release: false, reason: 'it is a forgery' })).body.state,
    ).toBe('declined')
    expect((await reviewer('POST', `/api/release-requests/${idOf(two)}/answer`, { release: true })).body.state).toBe('released')
    await reviewer('POST', '/api/copies/lane', { ids: [three.id], versions: 'any', lane: 'inbox', mark: 'wanted' })
    expect([(await copyOf(one.id)).lane, (await copyOf(two.id)).lane]).toEqual(['quarantine', 'inbox'])
    const result = (await mine(worker)).items.filter(r => r.note === 'the kettles')
    expect(result.map(r => [r.copy.id, r.state, r.reason, r.news]).sort()).toEqual(
      [[one.id, 'declined', 'it is a forgery', true], [two.id, 'released', null, true], [three.id, 'released', null, true]].sort(),
    )
    expect((await mine(worker)).news).toBe(3)
    await worker('POST', '/api/release-requests/seen', { ids: result.map(r => r.id) })
    expect((await mine(worker)).news).toBe(0)
  })

  it('is only for one’s own held mail; nobody answers for a quarantine that is not theirs, and nobody twice', async () => {
    const copy = await receiveFrom('f@ask.test', 'ask four', 'red kettle')
    const own = await receiveFrom('g@plain.test', 'not held')
    expect((await reviewer('POST', '/api/release-requests', { ids: [copy.id], note: '' })).status).toBe(403)
    expect((await worker('POST', '/api/release-requests', { ids: [own.id], note: '' })).status).toBe(422)
    await worker('POST', '/api/release-requests', { ids: [copy.id], note: '' })
    const request = await gate.ask.requestFor(copy.id)
    expect((await worker('POST', `/api/release-requests/${request.id}/answer`, { release: true })).status).toBe(403)
    const answers = await Promise.all(
      [reviewer, admin].map(who => who('POST', `/api/release-requests/${request.id}/answer`, { release: true })),
    )
    expect(answers.map(a => a.status).sort()).toEqual([200, 409])
    // Whoever is first: an administrator sees where it went then, a reviewer does not, and is told all the same.
    for (const [first, second] of [[admin, reviewer], [reviewer, admin]] as const) {
      const again = await receiveFrom('f@ask.test', 'ask once more', 'red kettle')
      await worker('POST', '/api/release-requests', { ids: [again.id], note: '' })
      const asked = await gate.ask.requestFor(again.id)
      expect((await first('POST', `/api/release-requests/${asked.id}/answer`, { release: true })).status).toBe(200)
      const late = await second('POST', `/api/release-requests/${asked.id}/answer`, { release: true })
      expect([late.status, late.body.detail]).toEqual([409, expect.stringContaining('already')])
    }
  })

  it('is not put into the bin without a word, neither alone nor among many', async () => {
    const copy = await receiveFrom('f@ask.test', 'ask and no word', 'red kettle')
    await worker('POST', '/api/release-requests', { ids: [copy.id], note: '' })
    const no = await reviewer('POST', '/api/copies/lane', { ids: [copy.id], versions: 'any', lane: 'bin' })
    expect([no.status, no.body.detail]).toEqual([422, expect.stringContaining('the recipient reads the reason')])
    const { body } = await reviewer('POST', '/api/copies/lane', { query: { words: 'ask and no word' }, lane: 'bin' })
    expect(await jobEnded(admin, body.job)).toMatchObject({ state: 'done', done: 1, moved: 0 })
    expect((await copyOf(copy.id)).lane).toBe('quarantine')
    const said = { ids: [copy.id], versions: 'any', lane: 'bin', reason: 'no kettle of ours' }
    expect((await reviewer('POST', '/api/copies/lane', said)).status).toBe(200)
    expect((await mine(worker)).items.find(r => r.copy?.id === copy.id)).toMatchObject({ state: 'declined', reason: 'no kettle of ours' })
  })

  it('is answered, taken back or let out by two hands at the same moment, and neither waits for ever', async () => {
    for (const how of ['answer', 'undo'] as const) {
      const copy = await receiveFrom('f@ask.test', `ask at once ${how}`, 'red kettle')
      const { body: asked } = await worker('POST', '/api/release-requests', { ids: [copy.id], note: '' })
      const request = await gate.ask.requestFor(copy.id)
      // Another hand lets it out: it holds the copy, and comes to the request only then.
      const other = await holdCopies(gate.database, { ids: [copy.id] })
      try {
        const late = how === 'answer'
          ? reviewer('POST', `/api/release-requests/${request.id}/answer`, { release: true })
          : undo(worker, asked.eventId)
        await untilWaiting('%for update%')
        await other.ask.changeRequest(request.id, { state: 'released' })
        await other.commit()
        expect((await late).status).toBe(409)
      }
      finally {
        await other.end()
      }
    }
  })

  it('waits again where the answer is taken back', async () => {
    const copy = await receiveFrom('f@ask.test', 'ask five', 'red kettle')
    await worker('POST', '/api/release-requests', { ids: [copy.id], note: 'five' })
    const { body } = await reviewer('POST', '/api/copies/lane', { ids: [copy.id], versions: 'any', lane: 'inbox' })
    const state = async () => (await gate.ask.requestFor(copy.id)).state
    expect(await state()).toBe('released')
    await undo(reviewer, body.eventId)
    expect(await state()).toBe('open')
  })

  it('shows its owner who opened their mail', async () => {
    const copy = await receiveFrom('f@ask.test', 'ask six', 'red kettle')
    await reviewer('GET', `/api/copies/${copy.id}`)
    const { body } = await worker('GET', `/api/copies/${copy.id}`)
    expect(body.history.map((h: Row) => [h.kind, h.by])).toContainEqual(['opened', 'Runa Keel'])
    expect((await reviewer('GET', `/api/copies/${copy.id}`)).body.history.map((h: Row) => h.kind)).not.toContain('opened')
  })
})

describe('a mend', () => {
  it('put in force brings the mail and its siblings back, lets the next in and the unwanted not; one undo takes all back', async () => {
    await changed(admin, holding('mended', 'late supplement', 'general', { mandatory: false }))
    const wanted = await receiveVerified('news@gazette.test', 'issue 1', 'late supplement')
    const sibling = await receiveVerified('news@gazette.test', 'issue 2', 'late supplement')
    const bad = await receiveFrom('crook@fraud.test', 'pay now', 'late supplement')
    await admin('POST', '/api/copies/judgement', { ids: [bad.id], versions: 'any', value: 'unwanted' })
    const { status, body } = await admin('POST', '/api/fixes', { ids: [wanted.id] })
    expect(status).toBe(200)
    const [first] = body as Row[]
    expect(first).toMatchObject({ permission: 'own', fixes: 1, of: 1, why: 'releases 2 messages, none of them marked unwanted' })
    // What the bar beside it shows is what the words say.
    expect(first!.moved).toEqual({ wanted: 1, unwanted: 0, unmarked: 1 })
    const done = await admin(
      'POST',
      '/api/changes',
      { base: first!.base, changes: first!.changes, coming: true, existing: { lanes: ['spam', 'quarantine', 'bin'], ids: [wanted.id] } },
    )
    expect(done.status).toBe(202)
    await jobEnded(admin, done.body.job)
    expect(
      [(await copyOf(wanted.id)).lane, (await copyOf(sibling.id)).lane, (await copyOf(bad.id)).lane],
    ).toEqual(['inbox', 'inbox', 'quarantine'])
    expect((await receiveVerified('news@gazette.test', 'issue 3', 'late supplement')).lane).toBe('inbox')
    expect((await receiveFrom('news@gazette.test', 'issue 3, forged', 'late supplement')).lane).toBe('quarantine')
    expect((await receiveFrom('crook@fraud.test', 'pay again', 'late supplement')).lane).toBe('quarantine')
    await undo(admin, done.body.eventId)
    expect([(await copyOf(wanted.id)).lane, (await copyOf(sibling.id)).lane]).toEqual(['quarantine', 'quarantine'])
    expect((await receiveFrom('news@gazette.test', 'issue 4', 'late supplement')).lane).toBe('quarantine')
  })

  it('is offered for just the department whose mail it is, too: others keep hearing from the sender', async () => {
    const [one, two, other] = ['oskar.brandt', 'hanne.solberg', 'piet.lorne'].map(name => `${name}@${OURS}`)
    const theirs = [
      await receiveFrom('k@kettle.test', 'boil 1', 'a text', one),
      await receiveFrom('k@kettle.test', 'boil 2', 'a text', two),
    ]
    const notReleased = await receiveFrom('k@kettle.test', 'boil 3', 'a text', other)
    const blocks = async (...ids: number[]) =>
      ((await admin('POST', '/api/fixes', { ids })).body as Row[]).filter(m => m.sentence.startsWith('Block k@kettle.test'))
    const found = await blocks(...theirs.map(c => c.id))
    // What was not asked about is exempted first.
    expect(found.map(m => [m.sentence, m.impact.copies, m.fixes, m.of, m.permission])).toEqual([
      ['Block k@kettle.test for Accounts', 2, 2, 2, 'own'],
      ['Block k@kettle.test for the whole organisation', 3, 2, 2, 'own'],
    ])
    // Of mail of two departments neither would do.
    const both = await blocks(theirs[0]!.id, notReleased.id)
    expect(both.map(m => m.sentence)).toEqual(['Block k@kettle.test for the whole organisation'])
  })

  it('beyond one’s power is asked for, with the copies; in one’s power it is offered before', async () => {
    await changed(admin, holding('must-mend', 'brass lantern'), holding('soft-mend', 'tin whistle', 'general', { mandatory: false }))
    const hard = await receiveVerified('h@lamp.test', 'lamp', 'brass lantern')
    const soft = await receiveVerified('h@lamp.test', 'tune', 'tin whistle')
    const { body: asks } = await worker('POST', '/api/fixes', { ids: [hard.id] })
    expect(asks.length).toBeGreaterThan(0)
    expect(asks.every((m: Row) => m.permission === 'ask')).toBe(true)
    // Words of mail that others get are not a worker's to be told.
    expect(asks.map((m: Row) => m.kind)).not.toContain('near')
    const proposed = await worker(
      'POST',
      '/api/proposals',
      { base: asks[0].base, changes: asks[0].changes, note: 'please', ids: [hard.id] },
    )
    expect(proposed.status).toBe(200)
    const taken = await admin(
      'POST',
      `/api/proposals/${proposed.body.id}/answer`,
      { accept: true, existing: { lanes: ['quarantine'], ids: [hard.id] } },
    )
    await jobEnded(admin, taken.body.job)
    expect((await copyOf(hard.id)).lane).toBe('inbox')
    const { body: own } = await worker('POST', '/api/fixes', { ids: [soft.id] })
    expect(own[0]).toMatchObject({ permission: 'own', sentence: 'Allow h@lamp.test, if verified, for you' })
  })

  it('is refused of mail that went wrong in two ways, and answers nothing where nothing is to blame', async () => {
    await changed(admin, holding('two-ways', 'odd sock'))
    const [held, delivered] = [await receiveFrom('i@two.test', 'held', 'odd sock'), await receiveFrom('i@two.test', 'delivered')]
    expect((await admin('POST', '/api/fixes', { ids: [held.id, delivered.id] })).status).toBe(422)
    await changed(admin, { type: 'remove', kind: 'rule', id: 'two-ways' })
    expect((await admin('POST', '/api/fixes', { ids: [held.id] })).body).toEqual([])
    const { body: blocks } = await admin('POST', '/api/fixes', { ids: [delivered.id] })
    expect(blocks[0].sentence).toBe('Block i@two.test for the whole organisation')
  })
})

describe('what is told on the way', () => {
  it('of fixes says what was found so far, and puts them in order once all mail was looked at', async () => {
    await changed(admin, holding('streamed', 'oiled rope'))
    const copy = await receiveVerified('a@streamed.test', 'streamed', 'oiled rope')
    const response = await fetch(`${gate.url}/api/fixes?follow=yes`, {
      method: 'POST',
      headers: { 'authorization': `Bearer ${TOKEN}`, 'content-type': 'application/json' },
      body: JSON.stringify({ ids: [copy.id] }),
    })
    expect(response.headers.get('content-type')).toContain('text/event-stream')
    const result = eventsOf<Row[]>(await response.text())
    const last = result.at(-1)!
    expect(last.length).toBeGreaterThan(0)
    for (const one of last) expect(one.impact.looked).toBe(one.impact.inScope)
    for (const soFar of result.slice(0, -1)) {
      for (const one of soFar) expect(one.impact.looked).toBeLessThan(one.impact.inScope)
      expect(soFar.map(m => m.sentence).sort()).toEqual(last.map(m => m.sentence).sort())
    }
    expect(last.map(m => m.sentence)).toEqual((await admin('POST', '/api/fixes', { ids: [copy.id] })).body.map((m: Row) => m.sentence))
  })

  it('of a release that another’s stop stands, and whose: the copy lies there, and is asked for there', async () => {
    const { body: other } = await admin('POST', '/api/quarantines', { name: 'Second gate' })
    await changed(admin, holding('first-gate', 'double knot'), holding('second-gate', 'double knot', other.id))
    const copy = await receiveFrom('b@two-gates.test', 'two gates', 'double knot')
    await worker('POST', '/api/release-requests', { ids: [copy.id], note: 'two gates' })
    const { body } = await reviewer('POST', '/api/copies/lane', { ids: [copy.id], versions: 'any', lane: 'inbox', mark: 'wanted' })
    expect(body.notReleased).toEqual([
      { id: copy.id, lane: 'quarantine', quarantine: other.id, why: expect.stringContaining('second-gate') },
    ])
    expect(await copyOf(copy.id)).toMatchObject({ lane: 'quarantine', quarantineId: other.id, judgement: 'wanted' })
    const open = async () => (await gate.ask.requestFor(copy.id)).state
    expect(await open()).toBe('open')
    expect((await groups(reviewer, `quarantine=${other.id}`)).groups[0]!.key).toBe('asked')
    await reviewer('POST', '/api/copies/lane', { ids: [copy.id], versions: 'any', lane: 'inbox' })
    expect([(await copyOf(copy.id)).lane, await open()]).toEqual(['inbox', 'released'])
  })
})

describe('what was asked and answered', () => {
  it('is taken back by who said it: a wish while nobody has answered, a no as long as nothing came since', async () => {
    await changed(admin, holding('wishes', 'velvet hawser'))
    const copy = await receiveFrom('c@wish.test', 'a wish', 'velvet hawser')
    const state = async () => {
      const { state, reason } = await gate.ask.requestFor(copy.id)
      return { state, reason }
    }
    const { body: asked } = await worker('POST', '/api/release-requests', { ids: [copy.id], note: '' })
    expect((await undo(reviewer, asked.eventId)).status).toBe(404)
    expect((await undo(worker, asked.eventId)).status).toBe(200)
    expect((await state()).state).toBe('withdrawn')
    await groups(reviewer)
    expect((await copyOf(copy.id)).reviewClause).toBe('rule wishes')
    // Asked once more it is a wish of its own.
    await worker('POST', '/api/release-requests', { ids: [copy.id], note: 'still' })
    const request = await gate.ask.requestFor(copy.id)
    const { body: no } = await reviewer('POST', `/api/release-requests/${request.id}/answer`, { release: false, reason: 'not yet' })
    expect(await state()).toEqual({ state: 'declined', reason: 'not yet' })
    expect((await undo(reviewer, no.eventId)).status).toBe(200)
    expect(await state()).toEqual({ state: 'open', reason: null })
    expect((await undo(reviewer, no.eventId)).status).toBe(409)
  })

  it('is read by who asked alone: another’s answers are not marked as read, and nobody reads another’s words', async () => {
    const copy = await receiveFrom('c@wish.test', 'a second wish', 'velvet hawser')
    await worker('POST', '/api/release-requests', { ids: [copy.id], note: 'between us' })
    const request = await gate.ask.requestFor(copy.id)
    await reviewer('POST', `/api/release-requests/${request.id}/answer`, { release: true })
    await reviewer('POST', '/api/release-requests/seen', { ids: [request.id] })
    expect((await gate.ask.request(request.id)).seenAt).toBeNull()
    const other = await signIn(gate, 'hanne.solberg')
    expect((await other('GET', '/api/release-requests')).body.items.map((r: Row) => r.note)).not.toContain('between us')
  })
})

describe('giving back', () => {
  it('of a list goes by its use and by its days: what came before them stays where it lies', async () => {
    const { body: list } = await admin('POST', '/api/lists', { name: 'Hasty', owner: 'organisation', usualSide: 'block' })
    await changed(
      admin,
      { type: 'put', kind: 'entries', list: list.id, entries: [{ kind: 'address', value: 'd@hasty.test' }] },
      {
        type: 'put',
        kind: 'assignment',
        value: { id: 'hasty-use', list: list.id, owner: 'organisation', side: 'block', state: 'enabled', stop: { to: 'spam' } },
      },
    )
    const [early, late] = [await receiveFrom('d@hasty.test', 'hasty early'), await receiveFrom('d@hasty.test', 'hasty late')]
    await gate.ask.changeCopies({ ids: [early.id] }, { receivedAt: daysAgo(10) })
    const giving = { clause: { kind: 'list', id: 'hasty-use' }, after: new Date(Date.now() - 5 * 24 * 3600_000).toISOString() }
    expect((await admin('POST', '/api/returns', giving)).body).toMatchObject(
      { took: 1, words: 'list “Hasty”', goes: [{ lane: 'inbox', copies: 1 }] },
    )
    const { body } = await admin('POST', '/api/returns', { ...giving, confirmed: true })
    await jobEnded(admin, body.job)
    expect([(await copyOf(early.id)).lane, (await copyOf(late.id)).lane]).toEqual(['spam', 'inbox'])
    // It is off by now: once more, for the days before, nothing of the policy changes.
    const before = await version()
    const { body: again } = await admin('POST', '/api/returns', { clause: giving.clause, confirmed: true })
    await jobEnded(admin, again.job)
    expect([(await copyOf(early.id)).lane, await version()]).toEqual(['inbox', before])
  })

  it('is of what keeps mail away: of a protection, of nothing, and of what is not there it says so', async () => {
    await changed(admin, { type: 'put', kind: 'rule', value: {
      id: 'keeper',
      name: 'Keeper',
      owner: 'organisation',
      state: 'enabled',
      when: { phrases: ['keep me'] },
      except: [],
      claims: [{ protect: ['spam'] }],
    } })
    expect(
      (await admin('POST', '/api/returns', { clause: { kind: 'rule', id: 'keeper' } })).body.detail,
    ).toContain('nothing to return')
    expect((await admin('POST', '/api/returns', { clause: { kind: 'rule', id: 'nowhere' } })).status).toBe(404)
    expect((await admin('POST', '/api/returns', { clause: { kind: 'list', id: 'nowhere' } })).status).toBe(404)
  })

  it('brings what a clause took where it would have gone without it, but for what is marked unwanted, and lists what is gone', async () => {
    await changed(admin, holding('taker', 'silver spoon', 'general', { mandatory: false, claims: [{ stop: { to: 'spam' } }] }))
    const [one, bad, moved] = [
      await receiveFrom('j@given.test', 'spoon one', 'silver spoon'),
      await receiveFrom('k@given.test', 'spoon two', 'silver spoon'),
      await receiveFrom('j@given.test', 'spoon three', 'silver spoon'),
    ]
    // It says something else by now: what it took stays taken until it is returned.
    await changed(admin, { ...holding('taker', 'golden fork', 'general', { mandatory: false, claims: [{ stop: { to: 'spam' } }] }) })
    await admin('POST', '/api/copies/judgement', { ids: [bad.id], versions: 'any', value: 'unwanted' })
    await admin('POST', '/api/copies/lane', { ids: [moved.id], versions: 'any', lane: 'bin' })
    await changed(
      admin,
      holding('refuser', 'copper pot', 'general', { mandatory: false, claims: [{ stop: { to: 'refuse', reply: 'no' } }] }),
    )
    const giving = { clause: { kind: 'rule', id: 'taker' } }
    const { body: seen } = await admin('POST', '/api/returns', giving)
    expect(seen).toMatchObject({ took: 3, markedUnwanted: 1, byHand: 1, goes: [{ lane: 'inbox', copies: 1 }], gone: [] })
    expect((await copyOf(one.id)).lane).toBe('spam')
    const { status, body } = await admin('POST', '/api/returns', { ...giving, confirmed: true })
    expect(status).toBe(202)
    await jobEnded(admin, body.job)
    expect([(await copyOf(one.id)).lane, (await copyOf(bad.id)).lane, (await copyOf(moved.id)).lane]).toEqual(['inbox', 'spam', 'bin'])
    expect((await admin('GET', '/api/rules/taker')).body.state).toBe('disabled')
    await undo(admin, body.eventId)
    expect((await copyOf(one.id)).lane).toBe('spam')
    await smtp(
      gate.smtpPort,
      handOver('l@gone.test', [addressOf('worker')], plainMessage({ from: 'l@gone.test', subject: 'pot', text: 'copper pot' })),
    )
    const { body: lost } = await admin('POST', '/api/returns', { clause: { kind: 'rule', id: 'refuser' } })
    expect(lost.gone).toEqual([{ sender: 'l@gone.test', copies: 1 }])
    expect((await worker('POST', '/api/returns', giving)).status).toBe(403)
  })
})

describe('what is kept for a while only', () => {
  it('is erased for good only when the number was said; what is asked for stays, and the envelope stays on record', async () => {
    await changed(admin, holding('binned', 'paper boat', 'general', { mandatory: false, claims: [{ stop: { to: 'bin' } }] }))
    const copy = await receiveFrom('m@boat.test', 'boat', 'paper boat')
    expect(
      (await worker('POST', '/api/review/purge', { lane: 'bin', senders: ['m@boat.test'], count: 7 })).body.detail,
    ).toContain('There is now 1 message')
    // Pressed five times it is deleted once, by one event.
    const pressed = await Promise.all(Array.from({ length: 5 }, () =>
      worker('POST', '/api/review/purge', { lane: 'bin', senders: ['m@boat.test'], count: 1 })))
    expect(pressed.map(p => p.status).sort()).toEqual([202, 409, 409, 409, 409])
    const { body } = pressed.find(p => p.status === 202)!
    await jobEnded(admin, body.job)
    expect(await gate.ask.eventsOn(copy.id, 'purged')).toHaveLength(1)
    expect(await copyOf(copy.id)).toMatchObject({ lane: 'discarded', erased: true, senderAddress: 'm@boat.test', subject: 'boat' })
    expect(await gate.ask.hasSource(copy.messageId)).toBe(false)
  })

  it('erases nothing that was put there after the number was said, however old the message is', async () => {
    const [old, back] = await gate.ask.copyIds({ lane: 'inbox' }, { limit: 2 })
    const many = await gate.ask.copyIds({ lane: 'inbox' }, { newest: true, limit: 101 })
    await admin('POST', '/api/copies/lane', { ids: many, versions: 'any', lane: 'bin' })
    // One of them lay there, is taken out, and comes back by an undo as if it had never been away.
    await admin('POST', '/api/copies/lane', { ids: [back], versions: 'any', lane: 'bin' })
    const { body: out } = await admin('POST', '/api/copies/lane', { ids: [back], versions: 'any', lane: 'inbox', confirmed: [back] })
    const n = await gate.ask.countCopies({ lane: 'bin' })
    const other = await holdCopies(gate.database, { lane: 'bin' })
    try {
      const { body } = await admin('POST', '/api/review/purge', { lane: 'bin', count: n })
      await untilWaiting('%from "copies"%for update%')
      await admin('POST', '/api/copies/lane', { ids: [old], versions: 'any', lane: 'bin' })
      expect((await undo(admin, out.eventId)).status).toBe(200)
      await other.end()
      expect(await jobEnded(admin, body.job)).toMatchObject({ state: 'done', done: n })
    }
    finally {
      await other.end()
    }
    for (const later of [old!, back!]) expect(await copyOf(later)).toMatchObject({ lane: 'bin', erased: false })
  })

  it('says what leaves soon, and when', async () => {
    const { body: places } = await admin('GET', '/api/review/places')
    const spam = places.find((p: Row) => p.lane === 'spam')
    expect(spam).toMatchObject({ days: 30, then: 'erase' })
    expect(spam.soon).toBeGreaterThan(0)
    // As many as it says, also what somebody has marked.
    const deactivation = await items(admin, 'lane=spam&soon=true&limit=100')
    expect(deactivation).toHaveLength(spam.soon)
    const [first] = deactivation
    expect(Date.parse(first!.leaves)).toBeLessThan(Date.now() + 7 * 24 * 3600_000)
    expect(Date.parse(first!.leaves)).toBeGreaterThan(Date.now())
  })
})
