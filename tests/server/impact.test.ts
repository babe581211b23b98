// Changes that are seen before they are active: what they would do, what is asked first, and what becomes of mail that is here.
import type { StayedCopy } from '../../server/db/schema'
import { afterAll, beforeAll, describe, expect, inject, it } from 'vitest'
import { blocking, change, putRule, versionFor } from '../support/clauses'
import { type Caller, eventsOf, JSON_TYPE, request, signIn, undo } from '../support/http'
import { install, type Installation, MEDIUM, receive } from '../support/installation'
import { addressOf, ownerOf, personOf } from '../support/office'
import { holdCopies } from '../support/questions'
import { handOver, smtp } from '../support/smtp'
import { jobEnded, until } from '../support/wait'

const NADIA = addressOf('nadia.quill')
const WORKER = ownerOf('worker')
let gate: Installation
let admin: Caller
let worker: Caller

beforeAll(async () => {
  gate = await install(inject('clusterFolder'), 'impact', { contents: MEDIUM })
  await signInBoth()
})
afterAll(() => gate.stop())

async function signInBoth() {
  admin = await signIn(gate, 'admin')
  worker = await signIn(gate, 'worker')
}

type Row = Record<string, any> // eslint-disable-line @typescript-eslint/no-explicit-any
const version = () => versionFor(admin)
const ruleFor = (words: string[], more: object = {}) => putRule(`about ${words.join()}`, { when: { phrases: words }, ...more })
const NEWS = 'news@regatta-society.example'
const impactOf = async (caller: Caller, changes: object[]) =>
  (await caller('POST', '/api/impact', { changes })).body
/** Hands a message over, and says in which lane its copy ends. */
const laneOf = async (from: string, subject: string, to?: string) => (await receive(gate, { from, subject, to })).lane
/** Copies in the inbox that a change may still move. */
const EXEMPTED = { lane: 'inbox', isMovedByHand: false } as const

describe('the impact of a change', () => {
  it('counts what lies there by a plain look at the mail: nobody is shown less than there is', async () => {
    const impact = await impactOf(admin, [blocking(NEWS)])
    const n = await gate.ask.figures({ sender: NEWS })
    expect(impact).toMatchObject({ ...n, senders: 1, looked: impact.inScope })
    expect(n.copies).toBeGreaterThan(20)
    const all = await gate.ask.countCopies()
    expect(impact.inScope).toBe(all)
    expect(impact.share).toBeCloseTo(n.copies / all, 10)
    const total = (l: Row) => l.wanted + l.unwanted + l.unmarked
    expect(impact.lanes.reduce((sum: number, l: Row) => sum + total(l), 0)).toBe(n.copies)
  })

  it('shows the worst first: what somebody judged wanted and would miss', async () => {
    const { sample, lanes: moving } = await impactOf(admin, [ruleFor(['the'])])
    const wanted = moving.filter((l: Row) => l.from === 'inbox' && l.to === 'spam').reduce((n: number, l: Row) => n + l.wanted, 0)
    expect(wanted).toBeGreaterThan(0)
    const first = Math.min(wanted, sample.length)
    expect(sample.slice(0, first).map((c: Row) => c.judgement)).toEqual(Array(first).fill('wanted'))
  })

  it('finds a sender in Sender, in the envelope and by its mailing list too, as the door would', async () => {
    const hand = (from: string, head: string) =>
      smtp(gate.smtpPort, handOver(from, [addressOf('worker')], `${head}\nSubject: by another way\n\nhello`))
    await hand('bounce@way.test', 'From: a@elsewhere.test')
    await hand('x@y.test', 'From: b@elsewhere.test\nSender: s@sub.way.test')
    await hand('x@y.test', 'From: c@elsewhere.test\nList-Id: <the.list.test>')
    const entries = [{ kind: 'domainAndSubdomains', value: 'way.test' }, { kind: 'mailingList', value: 'the.list.test' }]
    expect(await impactOf(admin, [{ type: 'put', kind: 'entries', list: 'speculators', entries }])).toMatchObject({ copies: 3, moves: 3 })
  })

  it('of a worker is about their own mail only', async () => {
    const impact = await impactOf(worker, [ruleFor(['the'], { owner: WORKER })])
    expect(impact.inScope).toBe(await gate.ask.countCopies({ person: personOf('worker') }))
    expect(impact.recipients).toBe(1)
    expect((await worker('POST', '/api/impact', { changes: [ruleFor(['the'])] })).status).toBe(403)
  })

  it('of what is only watched is told as if it acted, and of nothing is nothing', async () => {
    const [enabled, monitoring] = [
      await impactOf(admin, [ruleFor(['newsletter'])]),
      await impactOf(admin, [ruleFor(['newsletter'], { state: 'monitor' })]),
    ]
    expect(enabled.moves).toBeGreaterThan(0)
    expect(monitoring).toEqual(enabled)
    expect(await impactOf(admin, [ruleFor(['zzyzx'])])).toMatchObject({ copies: 0, moves: 0, sample: [], broad: null })
  })

  it('streams: what is found so far, then all of it', async () => {
    const answer = await request(gate.url, '/api/impact?follow=yes', {
      method: 'POST',
      headers: { cookie: admin.cookie, ...JSON_TYPE },
      body: JSON.stringify({ changes: [ruleFor(['the'])] }),
    })
    expect(answer.headers.get('content-type')).toContain('text/event-stream')
    const result = eventsOf<Row>(answer.text)
    expect(result.at(-1)!.looked).toBe(result.at(-1)!.inScope)
    expect(result.at(-1)!.broad).toMatch(/marked wanted/)
  })

  // 422 is a form that is wrong; 409 is one that is right, about what is not there (any more).
  it.each([
    ['no change at all', { changes: [] }, 422, /changes/],
    ['a change of no known kind', { changes: [{ put: 'mountain' }] }, 422, /changes/],
    [
      'a rule without conditions',
      { changes: [{ type: 'put', kind: 'rule', value: { name: 'x', owner: 'organisation', state: 'enabled' } }] },
      422,
      /when/,
    ],
    [
      'a list that is not there',
      { changes: [{ type: 'put', kind: 'entries', list: 'nowhere', entries: [{ kind: 'address', value: 'a@b.test' }] }] },
      409,
      /problem:stale/,
    ],
  ])('refuses %s, and says what is wrong with it', async (_, form, status, named) => {
    const answer = await admin('POST', '/api/impact', form)
    expect([answer.status, JSON.stringify(answer.body)]).toEqual([status, expect.stringMatching(named)])
  })
})

describe('a change on its way', () => {
  it('that is broad is not in force before its worst was seen', async () => {
    const before = await version()
    const { status, body } = await change(admin, [ruleFor(['the'])])
    expect([status, body.type]).toEqual([422, 'urn:sober-gate:problem:broad'])
    expect(body.impact.sample[0].judgement).toBe('wanted')
    expect(await version()).toBe(before)
    const seen = await change(admin, [ruleFor(['the'])], { confirmed: { broad: true } })
    expect(seen).toMatchObject({ status: 200, body: { version: before + 1, job: null } })
    expect((await undo(admin, seen.body.eventId)).status).toBe(200)
  })

  it('that only lets watch goes through at once', async () => {
    const done = await change(admin, [ruleFor(['the'], { state: 'monitor' })])
    expect(done.status).toBe(200)
    await undo(admin, done.body.eventId)
  })

  it('that leaves nothing wants the number that was seen; of one’s own a word is enough', async () => {
    const erase = (owner: string) => ruleFor(['newsletter'], { owner, claims: [{ stop: { to: 'erase', confirmed: true } }] })
    const asked = await change(admin, [erase('organisation')], { confirmed: { broad: true } })
    expect([asked.status, asked.body.type]).toEqual([422, 'urn:sober-gate:problem:erases'])
    const { erased } = asked.body.impact as { erased: number }
    expect(erased).toBeGreaterThan(0)
    expect((await change(admin, [erase('organisation')], { confirmed: { broad: true, erases: erased - 1 } })).status).toBe(422)
    const done = await change(admin, [erase('organisation')], { confirmed: { broad: true, erases: erased } })
    expect(done.status).toBe(200)
    await undo(admin, done.body.eventId)
    expect((await change(worker, [erase(WORKER)], { confirmed: { broad: true } })).body.type).toBe('urn:sober-gate:problem:erases')
    const own = await change(worker, [erase(WORKER)], { confirmed: { broad: true, erases: 0 } })
    expect(own.status).toBe(200)
    await undo(worker, own.body.eventId)
  })

  it('that somebody was faster with is told from broad, with what they did', async () => {
    const base = await version()
    const made = await admin('POST', '/api/changes', { base, changes: [ruleFor(['first come'])], coming: true })
    const { id } = await gate.ask.ruleNamed('about first come')
    const about = (words: string) => ruleFor([words], { id, name: 'about first come' })
    const seen = await version()
    expect((await change(admin, [about('quicker')])).status).toBe(200)
    const slow = await admin('POST', '/api/changes', { base: seen, changes: [about('slower')], coming: true })
    expect([slow.status, slow.body.type]).toEqual([409, 'urn:sober-gate:problem:stale'])
    expect(slow.body.theirs[0].words).toContain('“quicker”')
    expect(slow.body.theirs[0].by).toBe('Ines Varga')
    expect(made.status).toBe(200)
    await admin('DELETE', `/api/rules/${id}?version=${await version()}`)
  })

  it('must say to which mail it applies', async () => {
    expect((await change(admin, [ruleFor(['x'])], { coming: false })).status).toBe(422)
  })
})

describe('mail that is here already', () => {
  it('goes where the change sends it, and comes back with the change: lanes, tags, reasons, all of it', async () => {
    const before = await gate.ask.copyStates()
    const done = await change(admin, [blocking(NEWS)], {
      existing: { lanes: ['inbox', 'lowPriority'] },
      confirmed: { broad: true },
    })
    expect(done.status).toBe(202)
    const job = await jobEnded(admin, done.body.job)
    expect(job).toMatchObject({ state: 'done', eventId: done.body.eventId })
    const moved = await gate.ask.copies({ eventId: done.body.eventId })
    expect(moved).toHaveLength(job.moved)
    expect(new Set(moved.map(m => m.lane))).toEqual(new Set(['spam']))
    expect(moved[0]!.reason).toMatchObject({ kind: 'clause', decided: true, clause: { name: 'Speculators' } })
    const { body: shown } = await admin('GET', `/api/copies/count?eventId=${done.body.eventId}`)
    expect(shown.total).toBe(job.moved)
    expect(await laneOf(NEWS, 'one that comes', NADIA)).toBe('spam')
    const back = await undo(admin, done.body.eventId)
    expect(back.body.changed).toBe(job.moved)
    expect((await gate.ask.copyStates()).filter(l => l.subject !== 'one that comes')).toEqual(before)
    expect(await laneOf(NEWS, 'one after it', NADIA)).toBe('inbox')
  })

  it('that a person moved by hand stays, and what they moved since stays when it is taken back', async () => {
    const [one, other] = await gate.ask.copyIds({ ...EXEMPTED, sender: NEWS }, { limit: 2 })
    await admin('POST', '/api/copies/lane', { ids: [one], versions: 'any', lane: 'lowPriority' })
    const done = await change(admin, [blocking(NEWS)], {
      existing: { lanes: ['inbox', 'lowPriority'] },
      confirmed: { broad: true },
    })
    await jobEnded(admin, done.body.job)
    const lanes = async () => [(await gate.ask.copy(one!)).lane, (await gate.ask.copy(other!)).lane]
    expect(await lanes()).toEqual(['lowPriority', 'spam'])
    await admin('POST', '/api/copies/lane', { ids: [other], versions: 'any', lane: 'bin' })
    expect((await undo(admin, done.body.eventId)).status).toBe(200)
    expect(await lanes()).toEqual(['lowPriority', 'bin'])
  })

  it('of others is not there for who names it by its number, and stays where it is', async () => {
    const { id } = await gate.ask.oneCopy({ ...EXEMPTED, notPerson: personOf('worker') })
    await admin('POST', '/api/copies/lane', { ids: [id], versions: 'any', lane: 'bin' })
    const mine = ruleFor(['anything'], { owner: WORKER, when: { every: true }, claims: [{ protect: ['spam'] }] })
    const done = await change(worker, [mine], { existing: { lanes: [], ids: [id] }, confirmed: { broad: true } })
    expect(done.status).toBe(404)
    expect((await gate.ask.copy(id)).lane).toBe('bin')
  })

  it('can be moved once, with nothing in force for what comes', async () => {
    const before = await version()
    const once = { coming: false, existing: { lanes: ['inbox'] }, confirmed: { broad: true } }
    const done = await change(admin, [ruleFor(['newsletter'])], once)
    const job = await jobEnded(admin, done.body.job)
    expect(job.moved).toBeGreaterThan(0)
    expect(await version()).toBe(before)
    expect((await undo(admin, done.body.eventId)).body.changed).toBe(job.moved)
  })

  it('comes back from spam when it is protected; where another’s stop stands it stays, and is told', async () => {
    const from = 'club@berth-shares.test'
    expect((await receive(gate, { from, subject: 'in spam before', relay: true })).lane).toBe('spam')
    const allowed = [
      { type: 'put', kind: 'list', value: { id: 'own-in', name: 'Mine always in', owner: WORKER, usualSide: 'allow', enabled: true } },
      { type: 'put', kind: 'entries', list: 'own-in', entries: [{ kind: 'address', value: from }] },
      { type: 'put', kind: 'assignment', value: { id: 'own-in-use', list: 'own-in', owner: WORKER, side: 'allow', state: 'enabled' } },
    ]
    const done = await change(worker, allowed, { existing: { lanes: ['spam', 'quarantine'] }, confirmed: { broad: true } })
    const job = await jobEnded(worker, done.body.job)
    expect(job.moved).toBeGreaterThan(0)
    expect((await gate.ask.oneCopy({ subject: 'in spam before' })).lane).toBe('inbox')
    await undo(worker, done.body.eventId)
    const mandatory = await change(admin, [ruleFor(['berth'], { mandatory: true, name: 'Berths' })], { confirmed: { broad: true } })
    const again = await change(worker, allowed, { existing: { lanes: ['spam', 'quarantine'] }, confirmed: { broad: true } })
    await jobEnded(worker, again.body.job)
    const { stayed, stays } = (await gate.ask.eventId(again.body.eventId)).detail as { stayed: number, stays: StayedCopy[] }
    expect(stayed).toBeGreaterThan(0)
    expect(stays[0]!.reason!.clause.name).toBe('Berths')
    expect((await jobEnded(worker, again.body.job)).stayed).toEqual({ count: stayed, first: stays[0] })
    expect((await jobEnded(admin, again.body.job)).stayed.first).toBeNull()
    await undo(worker, again.body.eventId)
    await undo(admin, mandatory.body.eventId)
  })

  it('whose change is gone again before all of it was moved stops, and says why', async () => {
    const middle = await holdCopies(gate.database, EXEMPTED, { limit: 1 })
    const everything = ruleFor(['unused'], { when: { every: true }, overridesLists: true, name: 'Everything for a while' })
    const done = await change(admin, [everything], { existing: { lanes: ['inbox'] }, confirmed: { broad: true } })
    const { id } = await gate.ask.ruleNamed('Everything for a while')
    const removed = await admin('DELETE', `/api/rules/${id}?version=${await version()}`)
    await middle.end()
    expect(removed.status).toBe(200)
    const job = await jobEnded(admin, done.body.job)
    expect(job.state).toBe('failed')
    expect(job.error).toContain('changed again meanwhile')
    // Since the rule was touched after it, the change is not undone; nor does anything else depend on what it moved.
    expect((await undo(admin, done.body.eventId)).status).toBe(409)
    await gate.ask.putBackBefore(done.body.eventId)
  })

  it('killed in the middle it goes on, does nothing twice, and is taken back whole', async () => {
    const before = await gate.ask.copyStates()
    const middle = await holdCopies(gate.database, EXEMPTED, { offset: (await gate.ask.countCopies(EXEMPTED)) - 1 })
    const everything = ruleFor(['unused'], { when: { every: true }, overridesLists: true, name: 'Everything' })
    const done = await change(admin, [everything], { existing: { lanes: ['inbox'] }, confirmed: { broad: true } })
    try {
      await until('the first step of the job is done', async () => (await admin('GET', `/api/jobs/${done.body.job}`)).body.done >= 100)
      await gate.kill()
    }
    finally {
      await middle.end()
    }
    await gate.restart()
    await signInBoth()
    const job = await jobEnded(admin, done.body.job)
    expect(job.state).toBe('done')
    // An act has each copy once: what was done twice would have failed, and what was left out is missing here.
    expect(await gate.ask.auditEventItems(done.body.eventId)).toHaveLength(job.moved)
    expect(job.moved).toBeGreaterThan(100)
    expect((await undo(admin, done.body.eventId)).body.changed).toBe(job.moved)
    expect(await gate.ask.copyStates()).toEqual(before)
  })
})

describe('what if', () => {
  it('says of each rung where the copy would end without it, and nothing of colleagues’ own', async () => {
    const from = 'club@berth-shares.test'
    await laneOf(from, 'a share of the berth')
    const { id } = await gate.ask.oneCopy({ subject: 'a share of the berth' })
    const { body } = await admin('GET', `/api/copies/${id}/what-if`)
    expect(body.now).toMatchObject({ lane: 'spam', version: await version() })
    expect(body.without.length).toBeGreaterThan(0)
    const own = ruleFor(['a share of the berth'], { owner: WORKER, name: 'Secret of mine', claims: [{ stop: { to: 'bin' } }] })
    const done = await change(worker, [own])
    const now = await worker('GET', `/api/copies/${id}/what-if`)
    expect(now.body.now.lane).toBe('bin')
    expect(now.body.without.find((w: Row) => w.lane === 'spam')).toBeDefined()
    const seen = await admin('GET', `/api/copies/${id}/what-if`)
    expect(JSON.stringify(seen.body)).not.toContain('Secret of mine')
    await undo(worker, done.body.eventId)
    expect((await worker('GET', '/api/copies/999999999/what-if')).status).toBe(404)
  })
})

describe('a sketch', () => {
  const suggestion = async (caller: Caller, form: object) => (await caller('POST', '/api/suggestions', form)).body

  it('from an inbox copy blocks its address, with all that it would catch', async () => {
    const copy = await gate.ask.oneCopy({ sender: NEWS, lane: 'inbox' })
    const found = await suggestion(admin, { ids: [copy.id] })
    const preset = found.candidates[found.preset]
    expect(found).toMatchObject({ then: { to: 'spam' }, owner: 'organisation', of: 1 })
    expect(preset).toMatchObject({ kind: 'address', senders: [{ kind: 'address', value: NEWS }] })
    expect(found.candidates.map((c: Row) => c.kind).slice(0, 4)).toEqual(['address', 'mailingList', 'domain', 'domainAndSubdomains'])
    expect(preset.impact).toMatchObject(await impactOf(admin, preset.changes).then(({ copies, moves }) => ({ copies, moves })))
    expect(preset.changes[0].value.name).toBe('Blocked')
  })

  it('from a stopped copy lets it in always, and says how much of that mail is verified and what says the contrary', async () => {
    const copy = await gate.ask.oneCopy({ person: personOf('worker'), lane: 'spam', senderBelow: 'test' })
    const found = await suggestion(worker, { ids: [copy.id] })
    expect(found).toMatchObject({ then: { to: 'inbox' }, owner: WORKER })
    expect(found.candidates[found.preset].verified.of).toBeGreaterThan(0)
    expect(found.contrary.length).toBeGreaterThan(0)
  })

  it('says first which list catches some of them already, and offers to add the rest there', async () => {
    await laneOf('seat@rye-desk.test', 'on a list')
    await laneOf('other@nobody-lists.test', 'on none')
    const ids = await gate.ask.copyIds({ subjects: ['on a list', 'on none'] })
    const found = await suggestion(admin, { ids, then: { to: 'spam' } })
    expect(found.covered[0]).toMatchObject({
      words: 'List “Speculators” matches 1 of these 2 messages',
      catches: 1,
      adds: 'other@nobody-lists.test',
    })
    expect((await change(admin, found.covered[0].add)).status).toBe(200)
    expect(await laneOf('other@nobody-lists.test', 'on it now')).toBe('spam')
  })

  it('from what is searched for is about all of it', async () => {
    const found = await suggestion(admin, { query: { words: 'newsletter' } })
    expect(found.of).toBe((await admin('GET', '/api/copies/count?words=newsletter')).body.total)
    expect(found.candidates.length).toBeGreaterThan(0)
  })

  it('of somebody else’s mail, of nothing, and for whom one may not is refused', async () => {
    const other = await gate.ask.oneCopy({ notPerson: personOf('worker'), lane: 'inbox' })
    const own = await gate.ask.oneCopy({ person: personOf('worker') })
    const status = async (form: object) => (await worker('POST', '/api/suggestions', form)).status
    expect(await status({ ids: [other.id] })).toBe(404)
    expect(await status({ query: { words: 'zzyzx' } })).toBe(422)
    expect(await status({ ids: [own.id], owner: ownerOf('admin') })).toBe(403)
    expect(await status({ ids: [own.id], then: { to: 'quarantine' } })).toBe(422)
    expect(await status({})).toBe(422)
  })
})

describe('a mistake that is corrected', () => {
  const entry = { kind: 'address', value: 'desk@lock-keeper.test' }
  const remove = { type: 'remove', kind: 'entries', list: 'speculators', entries: [entry] }
  const arrive = (subject: string, relay = false) => receive(gate, { from: entry.value, subject, relay })

  it('brings its mail back from where it is, as told beforehand; what was marked unwanted stays, counted apart', async () => {
    expect((await change(admin, [blocking(entry.value)])).status).toBe(200)
    const copies = [await arrive('lock one', true), await arrive('lock two'), await arrive('lock three', true)]
    expect(copies.map(c => c.lane)).toEqual(['spam', 'spam', 'spam'])
    await admin('POST', '/api/copies/judgement', { ids: [copies[2]!.id], versions: 'any', value: 'unwanted' })
    const impact = await impactOf(admin, [remove])
    expect(impact).toMatchObject({ freedNotVerified: 1, unwantedStay: 1, byHand: 0 })
    expect([impact.freed, impact.here].map((f: Row) => f.spam)).toEqual([2, 2])
    const { status, body } = await change(admin, [remove], { existing: { lanes: ['spam'] }, confirmed: { broad: true } })
    expect(status).toBe(202)
    await jobEnded(admin, body.job)
    const lanes = async () => (await gate.ask.copies({ ids: copies.map(c => c.id) })).sort((a, b) => a.id - b.id).map(c => c.lane)
    expect(await lanes()).toEqual(['inbox', 'inbox', 'spam'])
    expect((await undo(admin, body.eventId)).status).toBe(200)
    await until('all is back', async () => (await lanes()).every(l => l === 'spam'))
    await change(admin, [remove], { confirmed: { broad: true } })
  })

  it('as a rule that is disabled brings back what it had put in the bin, too', async () => {
    const id = 'lock-rule'
    const binning = (state: string) => putRule('lockage', { id, claims: [{ stop: { to: 'bin' } }], state })
    expect((await change(admin, [binning('enabled')])).status).toBe(200)
    const copy = await receive(gate, { from: 'a@lock.test', subject: 'the lockage due' })
    expect(copy.lane).toBe('bin')
    const impact = await impactOf(admin, [binning('disabled')])
    expect(impact.freed).toMatchObject({ bin: 1, spam: 0, quarantine: 0 })
    const { body } = await change(admin, [binning('disabled')], { existing: { lanes: ['bin'] } })
    await jobEnded(admin, body.job)
    expect((await gate.ask.copies({ ids: [copy.id] }))[0]!.lane).toBe('inbox')
  })

  it('of a rule that only monitors offers no mail to return: it stopped none', async () => {
    const stats = async (id: string) => (await admin('GET', `/api/rules/${id}`)).body.stats
    expect((await change(admin, [putRule('sluice gate', { id: 'watcher', state: 'monitor' })])).status).toBe(200)
    await laneOf('a@lock.test', 'the sluice gate')
    expect(await stats('watcher')).toMatchObject({ hits: 1, stopped: false })
    expect(await stats('lock-rule')).toMatchObject({ stopped: false })
    await change(admin, [putRule('sluice gate', { id: 'watcher', state: 'disabled' })])
    expect(await stats('watcher')).toMatchObject({ stopped: false })
  })
})
