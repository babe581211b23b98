// Many messages at once: all that match are moved, and nothing else; killed in the middle it goes on; all of it comes back.
import { afterAll, beforeAll, describe, expect, inject, it } from 'vitest'
import { callerFor, handOver, install, jobEnded, plainMessage, smtp, type Caller, type Installation } from './support/installation'

const OURS = 'saltmere-harbour.example'
let gate: Installation
let admin: Caller
let worker: Caller
let reviewer: Caller

beforeAll(async () => {
  gate = await install(inject('clusterFolder'), 'many', { SOBER_GATE_DEMO_MESSAGES: '500' })
  admin = await callerFor(gate.url, `admin@${OURS}`)
  worker = await callerFor(gate.url, `worker@${OURS}`)
  reviewer = await callerFor(gate.url, `reviewer@${OURS}`)
})
afterAll(() => gate.stop())

const rows = async (text: string, values: unknown[] = []) =>
  (await gate.database.query(text, values)).rows as Record<string, any>[] // eslint-disable-line @typescript-eslint/no-explicit-any
const count = async (where: string, values: unknown[] = []) =>
  Number((await rows(`select count(*) n from copies where ${where}`, values))[0]!.n)
const lanes = () =>
  rows(
    'select id, lane, quarantine_id, folder, moved_by, judgement, judgement_strength, tags, subject from copies order by id',
  )
const moveAll = (caller: Caller, query: object, lane: string, more: object = {}) =>
  caller('POST', '/api/copies/lane', { query, lane, ...more })

describe('all that match', () => {
  it('are moved as one act with one undo, which brings back every lane and judgement', async () => {
    const before = await lanes()
    const [inbox, others] = [
      await count(`lane = 'inbox'`),
      await rows(`select id, lane from copies where lane <> 'inbox' order by id`),
    ]
    const { status, body } = await moveAll(admin, { lane: ['inbox'] }, 'spam')
    expect(status).toBe(202)
    const done = await jobEnded(admin, body.job)
    expect(done).toMatchObject({ state: 'done', done: inbox, total: inbox, moved: inbox, act: body.act })
    expect(await count(`lane = 'inbox'`)).toBe(0)
    const now = await rows('select id, lane from copies where id = any($1) order by id', [others.map(o => o.id)])
    expect(now).toEqual(others)
    const [line] = (await admin('GET', '/api/acts?mine=true&undoable=true&limit=1')).body.items
    expect(line).toMatchObject({ id: body.act, words: `sent ${inbox} messages to spam` })
    const undone = await admin('POST', `/api/acts/${body.act}/undo`)
    expect([undone.status, undone.body.changed]).toEqual([200, inbox])
    expect(await lanes()).toEqual(before)
    expect((await admin('POST', `/api/acts/${body.act}/undo`)).status).toBe(409)
  })

  it('but not those left out, nor what comes in after it was asked', async () => {
    const [left] = await rows(`select id from copies where lane = 'spam' order by id limit 1`)
    const { body } = await moveAll(admin, { lane: ['spam'], except: [Number(left!.id)] }, 'bin')
    await jobEnded(admin, body.job)
    expect(await rows(`select id from copies where lane = 'spam'`)).toEqual([left])
    await admin('POST', `/api/acts/${body.act}/undo`)
  })

  it('are judged, as one by one: what was said is told, what stood before comes back', async () => {
    const before = await lanes()
    const { body } = await admin('POST', '/api/copies/judgement', { query: { lane: ['spam'] }, value: 'unwanted' })
    const done = await jobEnded(admin, body.job)
    expect(await count(`lane = 'spam' and judgement = 'unwanted' and judgement_strength = 'said'`)).toBe(done.total)
    await admin('POST', `/api/acts/${body.act}/undo`)
    expect(await lanes()).toEqual(before)
  })

  it('are no more than somebody sees, and what they may not move stays', async () => {
    const others = await rows(
      `select id, lane from copies where person_id is distinct from 'worker-${OURS}' order by id`,
    )
    const held = await count(`person_id = 'worker-${OURS}' and lane = 'quarantine'`)
    const mine = await count(`person_id = 'worker-${OURS}'`)
    expect(held).toBeGreaterThan(0)
    const { body } = await moveAll(worker, {}, 'bin')
    const done = await jobEnded(worker, body.job)
    expect(done.total).toBe(mine)
    expect(await count(`person_id = 'worker-${OURS}' and lane = 'quarantine'`)).toBe(held)
    const now = await rows('select id, lane from copies where id = any($1) order by id', [others.map(o => o.id)])
    expect(now).toEqual(others)
    expect((await reviewer('GET', `/api/jobs/${body.job}`)).status).toBe(404)
    expect((await reviewer('POST', `/api/acts/${body.act}/undo`)).status).toBe(404)
    expect((await worker('POST', `/api/acts/${body.act}/undo`)).status).toBe(200)
  })

  it.each([
    ['neither ids nor a query', {}, 422],
    ['both', { ids: [1], query: {} }, 422],
    ['a lane that nothing is sent to', { query: {}, lane: 'refused' }, 422],
    ['a quarantine that there is not', { query: {}, lane: 'quarantine', quarantine: 'nowhere' }, 422],
    ['a filter of no such name', { query: { colour: 'red' } }, 422],
  ])('refuses %s, and begins nothing', async (_, form, status) => {
    const before = await rows('select count(*) n from jobs')
    const answer = await admin('POST', '/api/copies/lane', { lane: 'spam', ...form })
    expect(answer.status).toBe(status)
    expect(await rows('select count(*) n from jobs')).toEqual(before)
  })

  it('a worker does not put all of it into a quarantine', async () => {
    expect((await moveAll(worker, {}, 'quarantine')).status).toBe(403)
  })

  it('killed in the middle it goes on, moves nothing twice, and is taken back whole', async () => {
    const before = await lanes()
    const middle = await gate.database.connect()
    await middle.query('begin')
    await middle.query(
      `select id from copies where id = (select id from copies where lane = 'inbox' order by id offset 250 limit 1) for update`,
    )
    const all = await count(`lane = 'inbox'`)
    const { body } = await moveAll(admin, { lane: ['inbox'] }, 'slow lane')
    try {
      for (let tries = 0; tries < 200; tries++) {
        if ((await admin('GET', `/api/jobs/${body.job}`)).body.done >= 200) break
        await new Promise(resolve => setTimeout(resolve, 50))
      }
      await gate.kill()
    }
    finally {
      await middle.query('rollback')
      middle.release()
    }
    expect(await count(`lane = 'inbox'`)).toBe(all - 200)
    await gate.restart()
    admin = await callerFor(gate.url, `admin@${OURS}`)
    worker = await callerFor(gate.url, `worker@${OURS}`)
    reviewer = await callerFor(gate.url, `reviewer@${OURS}`)
    expect(await jobEnded(admin, body.job)).toMatchObject({ state: 'done', done: all, moved: all })
    expect(await rows('select count(*)::int n from act_items where act_id = $1', [body.act])).toEqual([{ n: all }])
    await admin('POST', `/api/acts/${body.act}/undo`)
    expect(await lanes()).toEqual(before)
  })

  it('taken back while it goes on, it ends, and nothing of it stays', async () => {
    const before = await lanes()
    const middle = await gate.database.connect()
    await middle.query('begin')
    await middle.query(
      `select id from copies where id = (select id from copies where lane = 'inbox' order by id offset 250 limit 1) for update`,
    )
    const { body } = await moveAll(admin, { lane: ['inbox'] }, 'slow lane')
    for (let tries = 0; tries < 200; tries++) {
      if ((await admin('GET', `/api/jobs/${body.job}`)).body.done >= 200) break
      await new Promise(resolve => setTimeout(resolve, 50))
    }
    const undoing = admin('POST', `/api/acts/${body.act}/undo`)
    // Until it waits for the step that waits for us: on a busy machine that is not at once.
    // It alone is asked for: others wait for locks in this database too, and in those beside it.
    const waiting = () =>
      rows(`select count(*)::int n from pg_stat_activity
        where datname = current_database() and wait_event_type = 'Lock' and query like 'update "jobs" set%"stopping"%'`)
    for (let tries = 0; tries < 200 && (await waiting())[0]!.n < 1; tries++) await new Promise(resolve => setTimeout(resolve, 50))
    await middle.query('rollback')
    middle.release()
    expect((await undoing).status).toBe(200)
    expect((await jobEnded(admin, body.job)).state).toBe('cancelled')
    expect(await lanes()).toEqual(before)
  })
})

describe('opening, and what it leaves on record', () => {
  it('the same look twice is one; judging is no further one', async () => {
    const [held] = await rows(`select id from copies where lane = 'quarantine' and person_id <> 'reviewer-${OURS}' limit 1`)
    const opened = async () =>
      Number(
        (
          await rows(
            `select count(*) n from acts a join act_items i on i.act_id = a.id where a.kind = 'opened' and i.copy_id = $1 and `
            + `a.person_id = 'reviewer-${OURS}'`,
            [held!.id],
          )
        )[0]!.n,
      )
    // A page that is loaded twice, or asks for the text and the source together, looks once.
    const [first] = await Promise.all(Array.from({ length: 8 }, () => reviewer('GET', `/api/copies/${held!.id}`)))
    const copy = first!.body
    await reviewer('POST', '/api/copies/judgement', { ids: [copy.id], value: 'wanted' })
    await reviewer('GET', `/api/copies/${held!.id}`)
    expect(await opened()).toBe(1)
  })

  it('of a moved copy the sentence begins with who sent it where', async () => {
    const [copy] = await rows(`select id from copies where person_id = 'worker-${OURS}' and lane = 'inbox' limit 1`)
    await worker('POST', '/api/copies/lane', { ids: [Number(copy!.id)], lane: 'bin' })
    const { body } = await worker('GET', `/api/copies/${copy!.id}`)
    expect(body.sentence).toMatch(/^Oskar Brandt sent it to the bin\. Before that: let into the inbox/)
    const [last] = (await worker('GET', '/api/acts?mine=true&undoable=true&limit=1')).body.items
    await worker('POST', `/api/acts/${last.id}/undo`)
    expect((await worker('GET', `/api/copies/${copy!.id}`)).body.sentence).toMatch(/^Let into the inbox/)
  })
})

describe('marks', () => {
  it('a tag is found by its words, by itself, and in the choice of marks of whoever sees it; a folder too', async () => {
    const [one, other] = await rows(`select id from copies where person_id = 'worker-${OURS}' and lane = 'inbox' limit 2`)
    const tagging = { name: 'Pays', owner: 'organisation', state: 'off', when: { phrases: ['x'] }, except: [] }
    await admin('POST', '/api/rules', { ...tagging, claims: [{ effect: { kind: 'tag', value: 'To Be Paid ßoon' } }] })
    await gate.database.query(`update copies set tags = '{"To Be Paid ßoon"}', important = true where id = $1`, [one!.id])
    await gate.database.query(`update copies set folder = 'Dues 2026' where id = $1`, [other!.id])
    const ids = async (query: string) =>
      ((await worker('GET', `/api/copies?${query}`)).body.items as { id: number }[]).map(c => c.id)
    expect(await ids('words=paid+be')).toContain(Number(one!.id))
    expect(await ids('words=paid+never')).not.toContain(Number(one!.id))
    expect(await ids(`tag=${encodeURIComponent('To Be Paid ßoon')}&important=true`)).toEqual([Number(one!.id)])
    expect(await ids('folder=Dues+2026')).toEqual([Number(other!.id)])
    expect((await worker('GET', '/api/copies/marks')).body).toMatchObject({
      tags: expect.arrayContaining(['To Be Paid ßoon']),
      folders: expect.arrayContaining(['Dues 2026']),
    })
    expect((await reviewer('GET', '/api/copies/marks')).body.folders).not.toContain('Dues 2026')
  })
})

describe('“I sent it and you never got it”', () => {
  const attempts = (caller: Caller, query: string) => caller('GET', `/api/attempts?${query}`)
  it('has an answer: taken, refused at the door, or never here; the worker hears of their own alone', async () => {
    const from = 'claims@sent-it.test'
    await smtp(gate.smtpPort, handOver(from, [`worker@${OURS}`], plainMessage({ from, subject: 'sent on Friday' })))
    await smtp(gate.smtpPort, ['EHLO x.test', `MAIL FROM:<${from}>`, `RCPT TO:<nobody@${OURS}>`]).catch(() => [])
    const all = (await attempts(admin, `sender=${from}`)).body.items
    expect(all.map((a: { rcptTo: string, replyCode: number }) => [a.rcptTo, a.replyCode])).toEqual([
      [`nobody@${OURS}`, 550],
      [`worker@${OURS}`, 250],
    ])
    expect(all[1]).toMatchObject({ subject: 'sent on Friday', copy: { lane: 'inbox' }, repeat: false })
    expect((await attempts(worker, `sender=${from}`)).body.items).toHaveLength(1)
    expect((await attempts(reviewer, `sender=${from}`)).body.items).toEqual([])
    expect((await attempts(admin, 'sender=never@sent-it.test')).body.items).toEqual([])
  })

  it('each step onward is told, and the same message once more is one that had come', async () => {
    const from = 'twice@sent-it.test'
    const message = plainMessage({ from, subject: 'sent twice' })
    await smtp(gate.smtpPort, handOver(from, [`worker@${OURS}`], message))
    const [{ copyId }] = (await attempts(worker, `sender=${from}`)).body.items
    await worker('POST', '/api/copies/lane', { ids: [copyId], lane: 'bin' })
    await smtp(gate.smtpPort, handOver(from, [`worker@${OURS}`], message))
    const [again, first] = (await attempts(worker, `sender=${from}`)).body.items
    expect(again).toMatchObject({ repeat: true, replyCode: 250, onward: [] })
    expect(first).toMatchObject({ repeat: false, onward: [{ words: 'Oskar Brandt moved it to bin' }] })
    const { body: text, headers } = await attempts(worker, `sender=${from}&as=text`)
    expect(headers.get('content-type')).toContain('text/plain')
    expect(text).toContain(`Mail from ${from} to anybody here`)
    expect(text).toContain('2 tries to hand it over')
    expect(text).toContain('Oskar Brandt moved it to bin')
  })

  it('as plain text says that it never came; and never lets a subject write lines of its own', async () => {
    const { body: none } = await attempts(admin, 'sender=ghost@sent-it.test&as=text')
    expect(none).toContain('it never came here')
    const from = 'lines@sent-it.test'
    const subject = '=?utf-8?Q?ok=0A=0AMail_from_x:_it_never_came_here?='
    await smtp(gate.smtpPort, handOver(from, [`worker@${OURS}`], plainMessage({ from, subject })))
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
    const [all] = await rows(`select count(*)::int n from attempts where at >= '2026-01-01'`)
    expect([seen.length, new Set(seen).size]).toEqual([all!.n, all!.n])
    expect((await attempts(admin, 'after=2026-05-02&before=2026-05-01')).status).toBe(422)
  })
})
