// Many messages at once: all that match are moved, and nothing else; killed in the middle it goes on; all of it comes back.
import { afterAll, beforeAll, describe, expect, inject, it } from 'vitest'
import { change, putRule } from '../support/clauses'
import { type Called, type Caller, openStream, signIn, undo } from '../support/http'
import { changeUser, userLeaves, userOf } from '../support/settings'
import { install, type Installation, MEDIUM } from '../support/installation'
import { addressOf, OURS, personOf } from '../support/office'
import { type CopyFilter, holdCopies } from '../support/questions'
import { handOver, plainMessage, smtp } from '../support/smtp'
import { jobEnded, until } from '../support/wait'

const WORKER = personOf('worker')
let gate: Installation
let admin: Caller
let worker: Caller
let reviewer: Caller

beforeAll(async () => {
  gate = await install(inject('clusterFolder'), 'many', { contents: MEDIUM })
  await signInAll()
})
afterAll(() => gate.stop())

async function signInAll() {
  admin = await signIn(gate, 'admin')
  worker = await signIn(gate, 'worker')
  reviewer = await signIn(gate, 'reviewer')
}
/** Copies and their lanes, to be held against the same at another time. */
const lanesOf = async (filter: CopyFilter) => (await gate.ask.copies(filter)).map(({ id, lane }) => ({ id, lane }))
/** Copies that a job moves in one step. */
const STEP = 200
/** Holds the copies of the inbox from a job's second step on, so that it gets no further than the first, and has more than one left. */
const holdMiddle = () => holdCopies(gate.database, { lane: 'inbox' }, { offset: 1.25 * STEP })
const firstStepDone = (job: number) =>
  until('the first step of the job is done', async () => (await admin('GET', `/api/jobs/${job}`)).body.done >= STEP)
const moveAll = (caller: Caller, query: object, lane: string, more: object = {}) =>
  caller('POST', '/api/copies/lane', { query, lane, ...more })

/** A user who is an administrator for now. */
const BRAM = personOf('bram.okafor')
async function asAdministrator(account: string): Promise<Caller> {
  await gate.ask.changePerson(personOf(account), { role: 'administrator' })
  return signIn(gate, account)
}
async function toWorker() {
  const { name, addresses, shared, departments } = (await userOf(admin, BRAM))!
  return changeUser(admin, BRAM, { name, addresses, shared, departments, role: 'worker' })
}

describe('all that match', () => {
  it('are moved as one act with one undo, which brings back every lane and judgement', async () => {
    const before = await gate.ask.copyStates()
    const [inbox, others] = [await gate.ask.countCopies({ lane: 'inbox' }), await lanesOf({ notLane: 'inbox' })]
    const { status, body } = await moveAll(admin, { lane: ['inbox'] }, 'spam')
    expect(status).toBe(202)
    const done = await jobEnded(admin, body.job)
    expect(done).toMatchObject({ state: 'done', done: inbox, total: inbox, moved: inbox, eventId: body.eventId })
    expect(await gate.ask.countCopies({ lane: 'inbox' })).toBe(0)
    expect(await lanesOf({ ids: others.map(o => o.id) })).toEqual(others)
    const [line] = (await admin('GET', '/api/audit-events?mine=true&undoable=true&limit=1')).body.items
    expect(line).toMatchObject({ id: body.eventId, words: `moved ${inbox.toLocaleString('en-GB')} messages to Spam` })
    const undone = await undo(admin, body.eventId)
    expect([undone.status, undone.body.changed]).toEqual([200, inbox])
    expect(await gate.ask.copyStates()).toEqual(before)
    expect((await undo(admin, body.eventId)).status).toBe(409)
  })

  it('but not those left out, nor what comes in after it was asked', async () => {
    const left = await gate.ask.oneCopy({ lane: 'spam' })
    const { body } = await moveAll(admin, { lane: ['spam'], except: [left.id] }, 'bin')
    await jobEnded(admin, body.job)
    expect(await gate.ask.copyIds({ lane: 'spam' })).toEqual([left.id])
    await undo(admin, body.eventId)
  })

  it('are judged, as one by one: what was said is told, what stood before comes back', async () => {
    const before = await gate.ask.copyStates()
    const { body } = await admin('POST', '/api/copies/judgement', { query: { lane: ['spam'] }, value: 'unwanted' })
    const done = await jobEnded(admin, body.job)
    expect(await gate.ask.countCopies({ lane: 'spam', judgement: 'unwanted', strength: 'said' })).toBe(done.total)
    await undo(admin, body.eventId)
    expect(await gate.ask.copyStates()).toEqual(before)
  })

  it('are no more than somebody sees, and what they may not move stays', async () => {
    const others = await lanesOf({ notPerson: WORKER })
    const held = await gate.ask.countCopies({ person: WORKER, lane: 'quarantine' })
    const mine = await gate.ask.countCopies({ person: WORKER })
    expect(held).toBeGreaterThan(0)
    const { body } = await moveAll(worker, {}, 'bin')
    const done = await jobEnded(worker, body.job)
    expect(done.total).toBe(mine)
    expect(await gate.ask.countCopies({ person: WORKER, lane: 'quarantine' })).toBe(held)
    expect(await lanesOf({ ids: others.map(o => o.id) })).toEqual(others)
    expect((await reviewer('GET', `/api/jobs/${body.job}`)).status).toBe(404)
    expect((await undo(reviewer, body.eventId)).status).toBe(404)
    expect((await undo(worker, body.eventId)).status).toBe(200)
  })

  it.each([
    ['neither ids nor a query', {}, 422],
    ['both', { ids: [1], query: {} }, 422],
    ['a lane that nothing is sent to', { query: {}, lane: 'refused' }, 422],
    ['a quarantine that there is not', { query: {}, lane: 'quarantine', quarantine: 'nowhere' }, 422],
    ['a filter of no such name', { query: { colour: 'red' } }, 422],
  ])('refuses %s, and begins nothing', async (_, form, status) => {
    const before = await gate.ask.jobs()
    const answer = await admin('POST', '/api/copies/lane', { lane: 'spam', ...form })
    expect(answer.status).toBe(status)
    expect(await gate.ask.jobs()).toEqual(before)
  })

  it('a worker does not put all of it into a quarantine', async () => {
    expect((await moveAll(worker, {}, 'quarantine')).status).toBe(403)
  })

  it('killed in the middle it goes on, moves nothing twice, and is taken back whole', async () => {
    const before = await gate.ask.copyStates()
    const all = await gate.ask.countCopies({ lane: 'inbox' })
    expect(all).toBeGreaterThan(2 * STEP)
    const middle = await holdMiddle()
    const { body } = await moveAll(admin, { lane: ['inbox'] }, 'lowPriority')
    try {
      await firstStepDone(body.job)
      await gate.kill()
    }
    finally {
      await middle.end()
    }
    expect(await gate.ask.countCopies({ lane: 'inbox' })).toBe(all - STEP)
    await gate.restart()
    await signInAll()
    expect(await jobEnded(admin, body.job)).toMatchObject({ state: 'done', done: all, moved: all })
    expect(await gate.ask.auditEventItems(body.eventId)).toHaveLength(all)
    await undo(admin, body.eventId)
    expect(await gate.ask.copyStates()).toEqual(before)
  })

  it('taken back while it goes on, it ends, and nothing of it stays', async () => {
    const before = await gate.ask.copyStates()
    const middle = await holdMiddle()
    const { body } = await moveAll(admin, { lane: ['inbox'] }, 'lowPriority')
    await firstStepDone(body.job)
    const undoing = undo(admin, body.eventId)
    // Until it waits for the step that waits for us: on a busy machine that is not at once.
    // It alone is asked for: others wait for locks in this database too.
    await until('the undo waits for the step', () => gate.ask.countWaiting('update "jobs" set%"stopping"%'))
    await middle.end()
    expect((await undoing).status).toBe(200)
    expect((await jobEnded(admin, body.job)).state).toBe('cancelled')
    expect(await gate.ask.copyStates()).toEqual(before)
  })
})

describe('opening, and what it leaves on record', () => {
  it('the same look twice is one; judging is no further one', async () => {
    const held = await gate.ask.oneCopy({ lane: 'quarantine', notPerson: personOf('reviewer') })
    const opened = async () =>
      (await gate.ask.eventsOn(held.id, 'opened')).filter(a => a.personId === personOf('reviewer')).length
    // A page that is loaded twice, or asks for the text and the source together, looks once.
    const [first] = await Promise.all(Array.from({ length: 8 }, () => reviewer('GET', `/api/copies/${held.id}`)))
    const copy = first!.body
    await reviewer('POST', '/api/copies/judgement', { ids: [copy.id], versions: 'any', value: 'wanted' })
    await reviewer('GET', `/api/copies/${held.id}`)
    expect(await opened()).toBe(1)
  })

  it('of a moved copy the sentence begins with who sent it where', async () => {
    const copy = await gate.ask.oneCopy({ person: WORKER, lane: 'inbox' })
    await worker('POST', '/api/copies/lane', { ids: [copy.id], versions: 'any', lane: 'bin' })
    const { body } = await worker('GET', `/api/copies/${copy.id}`)
    expect(body.sentence).toMatch(/^Oskar Brandt moved it to Bin\. Before that: delivered to Inbox/)
    const [last] = (await worker('GET', '/api/audit-events?mine=true&undoable=true&limit=1')).body.items
    await undo(worker, last.id)
    expect((await worker('GET', `/api/copies/${copy.id}`)).body.sentence).toMatch(/^Delivered to Inbox/)
  })
})

describe('marks', () => {
  it('a tag is found by its words, by itself, and in the choice of marks of whoever sees it; a folder too', async () => {
    const [one, other] = await gate.ask.copyIds({ person: WORKER, lane: 'inbox' }, { limit: 2 })
    const tagging = { name: 'Pays', owner: 'organisation', state: 'disabled', when: { phrases: ['x'] }, except: [] }
    await admin('POST', '/api/rules', { ...tagging, claims: [{ effect: { kind: 'tag', value: 'To Be Paid ßoon' } }] })
    await gate.ask.changeCopies({ ids: [one!] }, { tags: ['To Be Paid ßoon'], important: true })
    await gate.ask.changeCopies({ ids: [other!] }, { folder: 'Dues 2026' })
    const ids = async (query: string) =>
      ((await worker('GET', `/api/copies?${query}`)).body.items as { id: number }[]).map(c => c.id)
    expect(await ids('words=paid+be')).toContain(one)
    expect(await ids('words=paid+never')).not.toContain(one)
    expect(await ids(`tag=${encodeURIComponent('To Be Paid ßoon')}&important=true`)).toEqual([one])
    expect(await ids('folder=Dues+2026')).toEqual([other])
    expect((await worker('GET', '/api/copies/labels')).body).toMatchObject({
      tags: expect.arrayContaining(['To Be Paid ßoon']),
      folders: expect.arrayContaining(['Dues 2026']),
    })
    expect((await reviewer('GET', '/api/copies/labels')).body.folders).not.toContain('Dues 2026')
  })
})

describe('“I sent it and you never got it”', () => {
  const attempts = (caller: Caller, query: string) => caller('GET', `/api/attempts?${query}`)
  it('has an answer: taken, refused at the door, or never here; the worker hears of their own alone', async () => {
    const from = 'claims@sent-it.test'
    await smtp(gate.smtpPort, handOver(from, [addressOf('worker')], plainMessage({ from, subject: 'sent on Friday' })))
    await smtp(gate.smtpPort, ['EHLO x.test', `MAIL FROM:<${from}>`, `RCPT TO:<nobody@${OURS}>`]).catch(() => [])
    const all = (await attempts(admin, `sender=${from}`)).body.items
    expect(all.map((a: { rcptTo: string, replyCode: number }) => [a.rcptTo, a.replyCode])).toEqual([
      [addressOf('nobody'), 550],
      [addressOf('worker'), 250],
    ])
    expect(all[1]).toMatchObject({ subject: 'sent on Friday', copy: { lane: 'inbox' }, repeat: false })
    expect((await attempts(worker, `sender=${from}`)).body.items).toHaveLength(1)
    expect((await attempts(reviewer, `sender=${from}`)).body.items).toEqual([])
    expect((await attempts(admin, 'sender=never@sent-it.test')).body.items).toEqual([])
  })

  it('each step onward is told, and the same message once more is one that had come', async () => {
    const from = 'twice@sent-it.test'
    const message = plainMessage({ from, subject: 'sent twice' })
    await smtp(gate.smtpPort, handOver(from, [addressOf('worker')], message))
    const [{ copyId }] = (await attempts(worker, `sender=${from}`)).body.items
    await worker('POST', '/api/copies/lane', { ids: [copyId], versions: 'any', lane: 'bin' })
    await smtp(gate.smtpPort, handOver(from, [addressOf('worker')], message))
    const [again, first] = (await attempts(worker, `sender=${from}`)).body.items
    expect(again).toMatchObject({ repeat: true, replyCode: 250, onward: [] })
    expect(first).toMatchObject({ repeat: false, onward: [{ words: 'Oskar Brandt moved it to Bin' }] })
    const { body: text, headers } = await attempts(worker, `sender=${from}&as=text`)
    expect(headers.get('content-type')).toContain('text/plain')
    expect(text).toContain(`Mail from ${from} to any recipient`)
    expect(text).toContain('2 delivery attempts')
    expect(text).toContain('Oskar Brandt moved it to Bin')
    const { body: short } = await attempts(worker, `sender=${from}&as=text&audience=sender`)
    expect(short).toContain('2 delivery attempts')
    expect(short).not.toMatch(/Oskar Brandt|Bin|why/)
  })

  it('as plain text says that it never came; and never lets a subject write lines of its own', async () => {
    const { body: none } = await attempts(admin, 'sender=ghost@sent-it.test&as=text')
    expect(none).toContain('it never arrived here')
    const from = 'lines@sent-it.test'
    const subject = '=?utf-8?Q?ok=0A=0AMail_from_x:_it_never_came_here?='
    await smtp(gate.smtpPort, handOver(from, [addressOf('worker')], plainMessage({ from, subject })))
    const { body: text } = await attempts(admin, `sender=${from}&as=text`)
    expect((text as string).split('\n').filter(l => l.startsWith('Mail from x'))).toEqual([])
  })

  it('goes page by page through all of them, and refuses a time that ends before it begins', async () => {
    const seen: number[] = []
    let cursor = ''
    do {
      const { body } = await attempts(admin, `limit=50&after=2026-01-01&${cursor}`)
      seen.push(...body.items.map((a: { id: number }) => a.id))
      cursor = body.next ? `cursor=${body.next}` : ''
    } while (cursor)
    const all = await gate.ask.countAttemptsSince('2026-01-01')
    expect([seen.length, new Set(seen).size]).toEqual([all, all])
    expect((await attempts(admin, 'after=2026-05-02&before=2026-05-01')).status).toBe(422)
  })
})

describe('the work of one person', () => {
  it('waits behind their own: ten jobs wait, more are refused, and others are served meanwhile', async () => {
    const held = await holdCopies(gate.database, { person: WORKER, lane: 'inbox' }, { limit: 1 })
    const mark = () => worker('POST', '/api/copies/judgement', { query: { lane: ['inbox'] }, value: 'wanted' })
    const first = (await mark()).body.job as number
    await until('the first job is at work', async () => (await worker('GET', `/api/jobs/${first}`)).body.state === 'running')
    const [before, version] = [await gate.ask.copyStates(), (await admin('GET', '/api/directory')).body.policy.version]
    const more = await Promise.all(Array.from({ length: 14 }, mark))
    expect(more.map(m => m.status).sort()).toEqual([...Array(10).fill(202), ...Array(4).fill(429)])
    expect(more.find(m => m.status === 429)!.body.detail).toContain('10 of your jobs are already waiting')
    const refused = await worker('POST', '/api/changes', {
      base: version,
      changes: [putRule('waiting', { owner: `person:${WORKER}`, when: { phrases: ['x'] } })],
      coming: true,
      existing: { lanes: ['inbox'] },
      confirmed: { broad: true },
    })
    expect([refused.status, (await admin('GET', '/api/directory')).body.policy.version]).toEqual([429, version])
    // Somebody else’s job is done, though eleven of the worker’s are not.
    const { body } = await moveAll(reviewer, { lane: ['spam'] }, 'bin')
    expect((await jobEnded(reviewer, body.job)).state).toBe('done')
    expect((await worker('GET', `/api/jobs/${first}`)).body.state).toBe('running')
    await undo(reviewer, body.eventId)
    expect(await gate.ask.copyStates()).toEqual(before)
    await held.end()
    for (const job of [first, ...more.filter(m => m.status === 202).map(m => m.body.job as number)])
      expect((await jobEnded(worker, job)).state).toBe('done')
  })
})

// A job goes on for minutes, a stream for hours: what somebody could do when it began they may not do any more.
describe('rights are those of the moment', () => {
  const moveInbox = (user: Caller) => moveAll(user, { lane: ['inbox'] }, 'lowPriority')
  /** Begins a job that is held in its second step, has its user changed meanwhile, and lets it go on. */
  async function changedMeanwhile(account: string, begin: (user: Caller) => Promise<Called>, change: () => Promise<{ status: number }>) {
    const user = await asAdministrator(account)
    const middle = await holdMiddle()
    try {
      const { body: { job } } = await begin(user)
      // Not by more of the statement: of a long one the database tells only the beginning.
      await until('the job waits in a step', () => gate.ask.countWaiting('select %'), 20_000)
      // Whoever takes the right away waits until the step that uses it is done.
      const changing = change()
      await until('the change waits for the step', () => gate.ask.countWaiting('select pg_advisory_xact_lock(%'), 20_000)
      await middle.end()
      expect((await changing).status).toBe(200)
      return await jobEnded(admin, job)
    }
    finally {
      await middle.end()
    }
  }

  it('who has left moves no more: the job ends, says why, and is undone by an administrator', async () => {
    const before = await gate.ask.copyStates()
    const all = await gate.ask.countCopies({ lane: 'inbox' })
    const ended = await changedMeanwhile('lise.aubrac', moveInbox, () => userLeaves(admin, personOf('lise.aubrac')))
    expect(ended).toMatchObject({ state: 'failed', error: expect.stringContaining('was deactivated'), moved: 2 * STEP })
    expect(await gate.ask.countCopies({ lane: 'inbox' })).toBe(all - 2 * STEP)
    expect((await undo(admin, ended.eventId!)).status).toBe(200)
    expect(await gate.ask.copyStates()).toEqual(before)
  })
  it('who is no administrator any more moves only what is their own', async () => {
    const theirs = await gate.ask.countCopies({ lane: 'inbox', notPerson: BRAM })
    const ended = await changedMeanwhile('bram.okafor', moveInbox, toWorker)
    expect(ended.state).toBe('done')
    expect(await gate.ask.countCopies({ lane: 'inbox', person: BRAM })).toBe(0)
    expect(await gate.ask.countCopies({ lane: 'inbox', notPerson: BRAM })).toBeGreaterThanOrEqual(theirs - 2 * STEP)
    expect((await undo(admin, ended.eventId!)).status).toBe(200)
  })
  it('who may not change the organisation’s rules any more has no more mail moved by one', async () => {
    const before = await gate.ask.copyStates()
    const existing = { lanes: ['inbox'] }
    const changes = [putRule('everything else', { when: { every: true } })]
    const begin = (user: Caller) => change(user, changes, { coming: false, existing, confirmed: { broad: true } })
    const ended = await changedMeanwhile('bram.okafor', begin, toWorker)
    expect(ended).toMatchObject({ state: 'failed', error: expect.stringContaining('You no longer have permission to change') })
    expect(ended.moved).toBeGreaterThan(0)
    expect(ended.moved).toBeLessThan(ended.total!)
    expect((await undo(admin, ended.eventId!)).status).toBe(200)
    expect(await gate.ask.copyStates()).toEqual(before)
  })

  it('one user has twelve streams open at a time, and each ends when they sign out or lose a right', async () => {
    const held = await holdCopies(gate.database, { person: WORKER, lane: 'inbox' }, { limit: 1 })
    const open: ReturnType<typeof openStream>[] = []
    try {
      const { body } = await moveAll(worker, { lane: ['inbox'] }, 'spam')
      const stream = (who: Caller) => {
        open.push(openStream(gate.url, `/api/jobs/${body.job}`, who.cookie))
        return open.at(-1)!
      }
      const first = stream(admin)
      const more = Array.from({ length: 11 }, () => stream(admin))
      expect(await Promise.all([first, ...more].map(o => o.status))).toEqual(Array(12).fill(200))
      expect(await stream(admin).status).toBe(429)
      first.close()
      await until('there is room again', async () => (await stream(admin).status) === 200)
      // Another user has streams of their own.
      const bram = await asAdministrator('bram.okafor')
      const theirs = stream(bram)
      expect(await theirs.status).toBe(200)
      await admin('DELETE', '/api/session')
      await Promise.all(more.map(o => o.ended))
      await signInAll()
      // Not by the API: changing users there would wait for the step that the test holds.
      await gate.ask.changePerson(BRAM, { role: 'worker' })
      await theirs.ended
    }
    finally {
      for (const one of open) one.close()
      await held.end()
    }
  })
})

// There is no way back: exactly what was counted is deleted, and nothing else, whatever happens meanwhile. It ends the mail of this file.
describe('a permanent deletion', () => {
  const IN_BIN = { lane: 'bin' } as const
  /** Copies that a deletion deletes in one step. */
  const DELETE_BATCH_SIZE = 100
  const empty = async (caller: Caller, count: number) => caller('POST', '/api/review/purge', { lane: 'bin', count })
  const holdSecondStep = () => holdCopies(gate.database, IN_BIN, { offset: 1.25 * DELETE_BATCH_SIZE, limit: 1 })
  beforeAll(async () => {
    const { body } = await moveAll(admin, { lane: ['inbox', 'spam'] }, 'bin')
    await jobEnded(admin, body.job)
  })

  it('goes only as far as its user may: who is no administrator any more deletes nothing of others', async () => {
    const user = await asAdministrator('bram.okafor')
    const [all, theirs] = [await gate.ask.countCopies(IN_BIN), await gate.ask.countCopies({ ...IN_BIN, notPerson: BRAM })]
    const middle = await holdSecondStep()
    const { body: { job } } = await empty(user, all)
    try {
      await until('the first step is done', async () => (await gate.ask.job(job))!.done >= DELETE_BATCH_SIZE)
      const changing = toWorker()
      await until('the change waits for the step', () => gate.ask.countWaiting('select pg_advisory_xact_lock(%'), 20_000)
      await middle.end()
      expect((await changing).status).toBe(200)
    }
    finally {
      await middle.end()
    }
    const ended = await jobEnded(admin, job)
    expect(ended.state).toBe('done')
    expect(await gate.ask.countCopies({ ...IN_BIN, person: BRAM })).toBe(0)
    expect(await gate.ask.countCopies({ ...IN_BIN, notPerson: BRAM })).toBeGreaterThanOrEqual(theirs - 2 * DELETE_BATCH_SIZE)
    expect(await gate.ask.countCopies(IN_BIN)).toBe(all - ended.moved)
  })

  it('killed in the middle goes on, and deletes what was counted: what came meanwhile stays', async () => {
    const all = await gate.ask.countCopies(IN_BIN)
    expect(all).toBeGreaterThan(2 * DELETE_BATCH_SIZE)
    const middle = await holdSecondStep()
    const { body: { job, eventId } } = await empty(admin, all)
    try {
      await until('the first step is done', async () => (await gate.ask.job(job))!.done >= DELETE_BATCH_SIZE)
      await gate.kill()
    }
    finally {
      await middle.end()
    }
    expect(await gate.ask.countCopies(IN_BIN)).toBe(all - DELETE_BATCH_SIZE)
    const late = await gate.ask.oneCopy({ lane: 'quarantine' })
    await gate.ask.changeCopies({ ids: [late.id] }, { lane: 'bin' })
    await gate.restart()
    await signInAll()
    expect(await jobEnded(admin, job)).toMatchObject({ state: 'done', moved: all, eventId })
    expect(await gate.ask.copyIds(IN_BIN)).toEqual([late.id])
    expect((await undo(admin, eventId)).status).not.toBe(200)
  })
})
