// Who looks for what happened to a message, or to a rule, finds it in the audit log: every event says what it was about and leads there.
import { afterAll, beforeAll, describe, expect, inject, it } from 'vitest'
import { blocking, changed, putRule, rule } from '../support/clauses'
import { type Caller, type Called, signIn, undo } from '../support/http'
import { FEW, install, type Installation, receive } from '../support/installation'
import { addressOf, OURS, ownerOf, personOf } from '../support/office'
import { setQuarantine } from '../support/settings'

let gate: Installation
let admin: Caller
let reviewer: Caller
let worker: Caller

beforeAll(async () => {
  gate = await install(inject('clusterFolder'), 'audit_log', { contents: FEW })
  admin = await signIn(gate, 'admin')
  reviewer = await signIn(gate, 'reviewer')
  worker = await signIn(gate, 'worker')
})
afterAll(() => gate.stop())

interface Target { name: string, to: string | null, before?: string | null, after?: string | null }
interface Event { id: number, at: string, by: string | null, kind: string, words: string, about: { targets: Target[], more: number } }

const page = async (who: Caller, query = '') => (await who('GET', `/api/audit-events?limit=200&${query}`)).body as { items: Event[] }
const events = async (who: Caller, query = '') => (await page(who, query)).items
const eventOf = async (who: Caller, id: number, query = '') => (await events(who, query)).find(e => e.id === id)!
const targetsOf = async (who: Caller, id: number) => (await eventOf(who, id)).about.targets
const settings = async () => (await admin('GET', '/api/settings')).body

describe('an event says what it was about, and leads there', () => {
  it('a message that was opened, and messages that were moved', async () => {
    const one = await receive(gate, { from: 'a@found.test', subject: 'about one' })
    const two = await receive(gate, { from: 'a@found.test', subject: 'about two' })
    await admin('GET', `/api/copies/${one.id}`)
    const [opened] = await events(admin, 'kind=messages')
    expect(opened).toMatchObject({ kind: 'opened', about: { targets: [{ name: '“about one” from a@found.test' }], more: 0 } })
    // The page that the link opens shows just that message.
    expect(opened!.about.targets[0]!.to).toBe(`/mail?eventId=${opened!.id}&open=${one.id}`)
    const shown = async (eventId: number) =>
      ((await admin('GET', `/api/copies?eventId=${eventId}`)).body.items as { id: number }[]).map(c => c.id).sort((a, b) => a - b)
    expect(await shown(opened!.id)).toEqual([one.id])

    const { body } = await admin('POST', '/api/copies/lane', { ids: [one.id, two.id], versions: 'any', lane: 'spam' })
    expect(await targetsOf(admin, body.eventId)).toEqual([{ name: '2 messages', to: `/mail?eventId=${body.eventId}` }])
    expect(await shown(body.eventId)).toEqual([one.id, two.id])
    const { body: undone } = await undo(admin, body.eventId)
    expect((await targetsOf(admin, undone.eventId)).map(t => t.name)).toEqual(['2 messages'])
  })
  it('a rule, by its sentence before and after; one that was deleted leads nowhere', async () => {
    const id = 'audited'
    const made = await changed(admin, putRule('Audited', { id, when: { phrases: ['first word'] } }))
    expect(await targetsOf(admin, made.eventId)).toEqual([{
      name: 'Rule “Audited”',
      to: `/rules/${id}`,
      before: null,
      after: 'When the subject or text has “first word”, move to Spam.',
    }])
    const second = await changed(admin, putRule('Audited', { id, state: 'monitor', when: { phrases: ['second word'] } }))
    expect((await targetsOf(admin, second.eventId))[0]).toMatchObject({
      before: 'When the subject or text has “first word”, move to Spam.',
      after: 'When the subject or text has “second word”, move to Spam. (monitor only)',
    })
    const gone = await changed(admin, { type: 'remove', kind: 'rule', id })
    expect((await targetsOf(admin, gone.eventId))[0]).toMatchObject({ to: null, after: null })
    await undo(admin, gone.eventId)
  })
  it('entries of a list by their number, and an assignment by its sentence', async () => {
    const made = await changed(admin, blocking('one@entry.test'), blocking('two@entry.test'))
    expect(await targetsOf(admin, made.eventId)).toEqual([{ name: 'List “Speculators”: 2 entries added', to: '/lists/speculators' }])
    const { assignments } = (await admin('GET', '/api/policy')).body as { assignments: { list: string }[] }
    const value = { ...assignments.find(a => a.list === 'speculators'), stop: { to: 'bin' } }
    const { eventId } = await changed(admin, { type: 'put', kind: 'assignment', value })
    expect(await targetsOf(admin, eventId)).toEqual([{
      name: 'List “Speculators”, assignment',
      to: '/lists/speculators',
      before: 'Block, for the whole organisation: move to Spam.',
      after: 'Block, for the whole organisation: move to Bin.',
    }])
    await undo(admin, eventId)
  })
  it('the user who was added, the part of Settings with its values, the quarantine', async () => {
    const form = { name: 'Nia Added', role: 'worker', addresses: [addressOf('nia')], shared: [], departments: [] }
    expect((await admin('POST', '/api/users', form)).status).toBe(201)
    const [added] = await events(admin, 'kind=users')
    expect(added!.about.targets).toEqual([{ name: 'User “Nia Added”', to: '/settings/users?find=Nia%20Added' }])
    const { version } = await settings()
    const { body } = await admin('PUT', '/api/settings', { version, retention: { bin: 12, spam: 30, attempts: null } })
    expect(await targetsOf(admin, body.eventId)).toEqual([{
      name: 'Retention',
      to: '/settings/retention',
      before: 'Bin: 30 days; Spam: 30 days; message log: kept',
      after: 'Bin: 12 days; Spam: 30 days; message log: kept',
    }])
    await undo(admin, body.eventId)
    const general = (await settings()).quarantines.find((q: { id: string }) => q.id === 'general')
    const { name: _n, general: _g, id: _i, version: _v, ...known } = general
    await setQuarantine(admin, 'general', { ...known, waitDays: 9, afterWait: 'bin' })
    const [settled] = await events(admin, 'kind=settings')
    expect(settled!.about.targets).toEqual([{ name: 'Quarantine “General”', to: '/settings/quarantines' }])
    await undo(admin, settled!.id)
  })
  it('a message whose release was requested, also where it was declined', async () => {
    const held = await receive(gate, { from: 'b@found.test', subject: 'about held', text: 'the release fee is due' })
    const asked = (await worker('POST', '/api/release-requests', { ids: [held.id], note: '' })).body
    expect((await targetsOf(admin, asked.eventId)).map(t => t.name)).toEqual(['“about held” from b@found.test'])
    const { body: { items } } = await worker('GET', '/api/release-requests')
    const answer = await admin('POST', `/api/release-requests/${items[0].id}/answer`, { release: false, reason: 'a forgery' })
    expect((await targetsOf(admin, answer.body.eventId)).map(t => t.name)).toEqual(['“about held” from b@found.test'])
  })
  it('of thousands of changes in one version the first, and how many more', async () => {
    const many = Array.from({ length: 30 }, (_, i) => putRule(`Many ${i}`, { id: `many-${i}`, when: { phrases: [`word ${i}`] } }))
    const { eventId } = await changed(admin, ...many)
    const { about } = await eventOf(admin, eventId)
    expect([about.targets.length, about.targets.length + about.more]).toEqual([4, 30])
    await undo(admin, eventId)
  })
})

describe('what is not theirs to see', () => {
  it('a message that a reviewer released is named no more', async () => {
    const held = await receive(gate, { from: 'c@found.test', subject: 'about released', text: 'the release fee is due' })
    const { body } = await reviewer('POST', '/api/copies/lane', { ids: [held.id], versions: 'any', lane: 'inbox' })
    expect(await targetsOf(reviewer, body.eventId)).toEqual([])
    expect((await targetsOf(admin, body.eventId)).map(t => t.name)).toEqual(['“about released” from c@found.test'])
  })
  it('a colleague’s personal rule is not named, before or after', async () => {
    const { eventId } = (await worker('POST', '/api/rules', rule('inner plover', { owner: ownerOf('worker') }))).body
    expect(await eventOf(admin, eventId)).toMatchObject({ words: 'changed personal lists or rules', about: { targets: [] } })
    expect(JSON.stringify(await events(admin))).not.toContain('inner plover')
    expect((await targetsOf(worker, eventId)).map(t => t.name)).toEqual(['Rule “inner plover”'])
    await undo(worker, eventId)
  })
})

describe('the history of a rule and of a list', () => {
  it('is what changed it, and nothing else', async () => {
    const own = await events(admin, 'rule=audited')
    expect(own.map(e => e.about.targets.map(t => t.name))).toEqual(Array(4).fill(['Rule “Audited”']))
    const list = await events(admin, 'list=speculators')
    expect(list.length).toBeGreaterThan(3)
    for (const { about } of list) for (const { name } of about.targets) expect(name).toContain('“Speculators”')
  })
  it('whoever sees the rule sees who changed it and how, and not what else was done with it', async () => {
    const both = [putRule('Seen', { id: 'seen' }), putRule('Other thing', { id: 'other-thing', owner: 'department:ferry' })]
    const { eventId } = await changed(admin, ...both)
    const seen = await eventOf(worker, eventId, 'rule=seen')
    expect(seen).toMatchObject({ by: 'Ines Varga', words: 'changed this rule', canUndo: false })
    expect(seen.about.targets.map(t => t.name)).toEqual(['Rule “Seen”'])
    expect(JSON.stringify(await events(worker, 'rule=seen'))).not.toContain('Other thing')
    await undo(admin, eventId)
  })
  it('of a personal rule, and of one that is not there, is nobody else’s', async () => {
    const { id } = (await worker('POST', '/api/rules', rule('mine alone', { owner: ownerOf('worker') }))).body
    const status = async (who: Caller, query: string) => (await who('GET', `/api/audit-events?${query}`)).status
    expect([await status(worker, `rule=${id}`), await status(admin, `rule=${id}`), await status(worker, 'list=nothing')]).toEqual([200, 404, 404])
    expect(await status(admin, 'rule=seen&list=speculators')).toBe(400)
  })
})

describe('what is looked for is found', () => {
  it('by user, kind and time; together they narrow', async () => {
    const of = async (query: string) => events(admin, query)
    expect(new Set((await of(`person=${personOf('worker')}`)).map(e => e.by))).toEqual(new Set(['Oskar Brandt']))
    expect(new Set((await of('person=product')).map(e => e.by))).toEqual(new Set([null]))
    expect(new Set((await of('kind=users')).map(e => e.kind))).toEqual(new Set(['changedUsers']))
    expect(await of('kind=users&person=product')).toEqual([])
    const all = await of('')
    const middle = all[Math.floor(all.length / 2)]!.at
    const later = await of(`after=${middle}`)
    const earlier = await of(`before=${middle}`)
    expect(later.length + earlier.length).toBe(all.length)
    expect([later.every(e => e.at >= middle), earlier.every(e => e.at < middle)]).toEqual([true, true])
    expect(await of('after=2100-01-01')).toEqual([])
  })
  it('whoever sees only their own events finds no others by naming a user', async () => {
    expect(await events(worker, `person=${personOf('admin')}`)).toEqual([])
    expect(await events(worker, 'person=product')).toEqual([])
  })
  it('as CSV: a row for each thing that an event was about, for administrators alone, and no cell runs as a formula', async () => {
    const { eventId } = await changed(admin, putRule('=cmd|calc', { id: 'formula' }))
    const file = (await admin('GET', '/api/audit-events/csv?kind=policy')) as Called & { body: string }
    expect(file.headers.get('content-type')).toContain('text/csv')
    const rows = file.body.trim().split('\r\n')
    expect(rows[0]).toBe('time,user,event,about,before,after,policy version,undone by')
    const listed = await events(admin, 'kind=policy')
    expect(rows.length - 1).toBe(listed.reduce((n, e) => n + Math.max(1, e.about.targets.length), 0))
    expect(file.body).not.toMatch(/(?:^|,|")=cmd/m)
    for (const who of [reviewer, worker]) expect((await who('GET', '/api/audit-events/csv')).status).toBe(403)
    await undo(admin, eventId)
  })
})

describe('who adds a user', () => {
  it('finds the event also when the name has other letters', async () => {
    const form = { name: 'Åse “&” <Ü>', role: 'worker', addresses: [`ase@${OURS}`], shared: [], departments: [] }
    await admin('POST', '/api/users', form)
    const [{ about }] = (await events(admin, 'kind=users')) as [Event]
    const find = new URL(about.targets[0]!.to!, 'http://x').searchParams.get('find')
    expect(find).toBe(form.name)
    const { body } = await admin('GET', `/api/users?words=${encodeURIComponent(find!)}`)
    expect((body.items as { name: string }[]).map(u => u.name)).toEqual([form.name])
  })
})
