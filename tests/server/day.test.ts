// What helps through a day's work: who sent what, a list for others, one message deleted, what began to stop mail; each as far as
// somebody's rights go.
import { afterAll, beforeAll, describe, expect, inject, it } from 'vitest'
import { change, changed, holding, list, putRule } from '../support/clauses'
import { signIn, undo, type Caller } from '../support/http'
import { install, receive, SMALL, type Installation } from '../support/installation'
import { addressOf, ownerOf } from '../support/office'
import { setQuarantine } from '../support/settings'
import { until } from '../support/wait'

let gate: Installation
let [admin, reviewer, worker] = [] as unknown as [Caller, Caller, Caller]

beforeAll(async () => {
  gate = await install(inject('clusterFolder'), 'day', { contents: SMALL })
  admin = await signIn(gate, 'admin')
  reviewer = await signIn(gate, 'reviewer')
  worker = await signIn(gate, 'worker')
})
afterAll(() => gate.stop())

const get = (from: string, subject: string, over: object = {}) =>
  receive(gate, { from, subject, text: 'of the day', to: addressOf('worker'), ...over })
const found = async (who: Caller, words: string) => (await who('GET', `/api/copies?limit=100&words=${words}`)).body.items

describe('senders to choose from', () => {
  const senders = async (who: Caller, query: string) =>
    (await who('GET', `/api/senders?${query}`)).body.items as { kind: string, value: string, messages: number, verified: number }[]

  it('are those of the mail that one sees, with how many, and how many of them are verified', async () => {
    await get('ann@day-senders.test', 'one', { relay: true })
    await get('ann@day-senders.test', 'two')
    await get('bo@day-senders.test', 'three', { to: addressOf('joris.penhale') })
    const all = await senders(admin, 'words=day-senders')
    expect(all).toEqual([
      { kind: 'domain', value: 'day-senders.test', name: '', messages: 3, verified: 1 },
      { kind: 'address', value: 'ann@day-senders.test', name: '', messages: 2, verified: 1 },
      { kind: 'address', value: 'bo@day-senders.test', name: '', messages: 1, verified: 0 },
    ])
    // Who writes to a colleague is not a worker's to learn.
    expect((await senders(worker, 'words=day-senders')).map(s => [s.value, s.messages])).toEqual([
      ['ann@day-senders.test', 2], ['day-senders.test', 2],
    ])
    expect(await senders(reviewer, 'words=day-senders')).toEqual([])
  })
  it.each([['%'], ['_'], ['\\'], ['\''], ['x'.repeat(200)]])('%s is sought as it is written', async (words) => {
    expect(await senders(admin, `words=${encodeURIComponent(words)}&kinds=domain`)).toEqual([])
  })
})

describe('a list that is copied to another owner', () => {
  const copyOf = (who: Caller, id: string, owner: string) => who('GET', `/api/lists/${id}/copy?owner=${owner}`)

  it('has the entries with notes and dates, and the assignment; saved as one event, it is undone whole', async () => {
    const assignment = { side: 'block', state: 'enabled', mandatory: true, stop: { to: 'quarantine', quarantine: 'general' } }
    const { body: made } = await admin('POST', '/api/lists', list('Day copies', { assignment }))
    await admin('POST', `/api/lists/${made.id}/entries`, { text: 'a@day-copy.test', note: 'why', expires: '2030-01-02T00:00:00.000Z' })
    const { body } = await copyOf(admin, made.id, 'department:accounts')
    const saved = await changed(admin, ...body.changes)
    const { body: all } = await admin('GET', '/api/lists')
    const copy = all.items.find((l: { name: string, owner: string }) => l.name === 'Day copies' && l.owner === 'department:accounts')
    expect(copy.assignments).toMatchObject([{ owner: 'department:accounts', side: 'block', mandatory: true, stop: { to: 'quarantine' } }])
    const { body: opened } = await admin('GET', `/api/lists/${copy.id}`)
    expect(opened.entries).toMatchObject([{ value: 'a@day-copy.test', note: 'why', expires: '2030-01-02T00:00:00.000Z' }])
    // A second copy is named as one.
    const again = (await copyOf(admin, made.id, 'department:accounts')).body.changes
    expect(again[0].value.name).toBe('Day copies (copy)')
    expect((await undo(admin, saved.eventId)).status).toBe(200)
    expect((await admin('GET', `/api/lists/${copy.id}`)).status).toBe(404)
  })
  it('is not made of a list that one does not see, nor for whom one may not change', async () => {
    const { body: made } = await admin('POST', '/api/lists', list('Day mine', { owner: ownerOf('admin'), entries: 'a@x.test' }))
    expect((await copyOf(worker, made.id, ownerOf('worker'))).status).toBe(404)
    const { body: ours } = await admin('POST', '/api/lists', list('Day ours', { entries: 'a@x.test' }))
    expect((await copyOf(worker, ours.id, 'department:accounts')).status).toBe(403)
    expect((await copyOf(worker, ours.id, ownerOf('worker'))).body.changes).toHaveLength(2)
    expect((await copyOf(admin, ours.id, 'organisation')).status).toBe(422)
  })
})

describe('lines pasted into a list that is not made yet', () => {
  it('are reported as for one that is there: what the owner’s other lists do is named, what others have is not', async () => {
    await admin('POST', '/api/lists', list('Day partners', { usualSide: 'allow', entries: 'a@day-report.test', assignment: { side: 'allow', state: 'enabled' } }))
    const report = async (who: Caller, owner: string) =>
      (await who('POST', '/api/lists/report', { owner, side: 'block', text: '@day-report.test\nx@day-report.test', below: false })).body
    const { counts, lines } = await report(admin, 'organisation')
    expect(counts).toMatchObject({ doubtful: 1, covered: 1 })
    expect(lines[0].why).toContain('includes a@day-report.test, allowed by list “Day partners”')
    expect((await report(worker, ownerOf('worker'))).counts).toMatchObject({ new: 1, covered: 1, doubtful: 0 })
    expect((await worker('POST', '/api/lists/report', { owner: 'organisation', side: 'block', text: 'x', below: false })).status).toBe(403)
  })
})

describe('one message deleted for good', () => {
  const remove = (who: Caller, { id, version }: { id: number, version: number }) => who('DELETE', `/api/copies/${id}?version=${version}`)

  it('leaves its log entry, by its recipient or an administrator, in the version that was seen, once', async () => {
    for (const n of ['first', 'second', 'third']) await get('a@day-gone.test', `daygone ${n}`)
    const mail = Object.fromEntries((await found(worker, 'daygone')).map((c: { subject: string }) => [c.subject.slice(8), c]))
    expect(mail.first.can.erase).toBe(true)
    expect((await remove(reviewer, mail.first)).status).toBe(404)
    expect((await remove(worker, { ...mail.first, version: mail.first.version + 1 })).status).toBe(409)
    const [one, other] = await Promise.all([remove(worker, mail.first), remove(worker, mail.first)])
    expect([one.status, other.status].sort()).toEqual([200, 409])
    expect((await worker('GET', `/api/copies/${mail.first.id}/source`)).status).toBe(410)
    expect((await undo(worker, one.body.eventId ?? other.body.eventId)).status).not.toBe(200)
    expect((await remove(admin, mail.second)).status).toBe(200)
    expect((await found(worker, 'daygone')).map((c: { subject: string, gone: string | null }) => c.gone).filter(Boolean)).toHaveLength(2)
  })
  it('is not what is held, whoever asks: it may be evidence, and its release may be requested', async () => {
    await changed(admin, holding('day-holds', 'dayheld'))
    await get('a@day-held.test', 'dayheld')
    const [held] = await found(worker, 'dayheld')
    expect([held.lane, held.can.erase]).toEqual(['quarantine', false])
    for (const who of [worker, reviewer, admin]) {
      const { status, body } = await remove(who, held)
      expect([status, body.detail]).toEqual([422, expect.stringContaining('Mail in quarantine')])
    }
    expect((await found(worker, 'dayheld'))[0].lane).toBe('quarantine')
  })
  it('until when Bin and Spam keep one is said with it, and nothing of what stays', async () => {
    await get('a@day-keeps.test', 'daykeeps')
    const [copy] = await found(worker, 'daykeeps')
    const leaves = async () => (await worker('GET', `/api/copies/${copy.id}`)).body.leaves
    expect(await leaves()).toBeNull()
    await worker('POST', '/api/copies/lane', { ids: [copy.id], versions: 'any', lane: 'bin' })
    expect(Date.parse(await leaves()) - Date.now()).toBeGreaterThan(29.9 * 24 * 3600_000)
  })
})

describe('a user is told that a rule began to stop mail that they open', () => {
  const news = async (who: Caller) => (await who('GET', '/api/newly-stopped')).body.items as { clause: { id: string, name: string }, senders: string[] }[]
  const opened = async (words: string) => {
    const [copy] = await found(worker, words)
    await worker('GET', `/api/copies/${copy.id}`)
  }

  it('once; not of strangers, of forgeries, of their own rules, nor of what is hidden from them', async () => {
    const friend = 'friend@day-news.test'
    await get(friend, 'daynews before', { relay: true })
    await opened('daynews')
    const rule = { id: 'day-stops', when: { phrases: ['daystop'] } }
    await changed(admin, putRule('Day stops', rule))
    await changed(worker, putRule('My own', { owner: ownerOf('worker'), when: { phrases: ['dayown'] } }))
    await get('stranger@day-news.test', 'daystop of a stranger', { relay: true })
    await get(friend, 'daystop, forged')
    await get(friend, 'dayown', { relay: true })
    expect(await news(worker)).toEqual([])
    await changed(admin, holding('day-hides', 'dayhidden', 'security'))
    await setQuarantine(admin, 'security', { visible: false })
    await get(friend, 'dayhidden', { relay: true })
    expect(await news(worker)).toEqual([])
    await get(friend, 'daystop of a friend', { relay: true })
    expect(await news(worker)).toMatchObject([{ clause: { id: 'day-stops', name: 'Day stops' }, messages: 1, senders: [friend] }])
    expect(await news(admin)).toEqual([])
    // What stopped nothing of theirs is not kept: nobody fills the table.
    expect((await worker('POST', '/api/newly-stopped/seen', { clause: 'made up' })).status).toBe(200)
    expect((await gate.database.query('select clause_id from told_clauses')).rows).toEqual([])
    expect((await worker('POST', '/api/newly-stopped/seen', { clause: 'day-stops' })).status).toBe(200)
    expect((await worker('POST', '/api/newly-stopped/seen', { clause: 'day-stops' })).status).toBe(200)
    expect(await news(worker)).toEqual([])
  })
})

describe('how far moving existing mail is', () => {
  it('says how many are to be moved, beside how many are looked through', async () => {
    for (const n of [1, 2, 3]) await get(`n${n}@day-moves.test`, `daymoves ${n}`)
    const { status, body } = await change(
      admin, [putRule('Day moves', { when: { phrases: ['daymoves'] } })],
      { existing: { lanes: ['inbox'], expected: 3 }, confirmed: { broad: true } },
    )
    expect(status).toBe(202)
    const job = async () => (await admin('GET', '/api/jobs?limit=20')).body.items.find((j: { id: number }) => j.id === body.job)
    await until('existing mail is moved', async () => (await job()).state === 'done')
    expect(await job()).toMatchObject({ expected: 3, moved: 3 })
    expect((await change(admin, [putRule('No', {})], { existing: { lanes: ['inbox'], expected: -1 } })).status).toBe(422)
  })
})
