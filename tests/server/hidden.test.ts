// Mail that is held out of its recipient's sight: whatever counts it, lists it or tells of it shows them that it is there, and word by
// word what it says.
import isSame from 'fast-deep-equal'
import { afterAll, beforeAll, describe, expect, inject, it } from 'vitest'
import { ACCESS } from '../../server/access/routes'
import { change, changed, holding, list, putRule, rule, tried } from '../support/clauses'
import { type Called, type Caller, signIn, undo } from '../support/http'
import { setQuarantine } from '../support/settings'
import { install, type Installation, receive } from '../support/installation'
import { ownerOf, personOf } from '../support/office'
import { jobEnded, until } from '../support/wait'

let gate: Installation
let admin: Caller
let worker: Caller
let quarantine: string
let ruleId: string
let listId: string
let setId: string
let visible: number

const OWN = ownerOf('worker')
const SPY = 'spy@hidden.test'

beforeAll(async () => {
  gate = await install(inject('clusterFolder'), 'hidden')
  admin = await signIn(gate, 'admin')
  worker = await signIn(gate, 'worker')
  quarantine = (await admin('POST', '/api/quarantines', { name: 'Out of sight' })).body.id
  expect((await setQuarantine(admin, quarantine, { reviewers: [personOf('admin')], visible: false })).status).toBe(200)
  await changed(admin, holding('hides', 'zebrahide', quarantine))
  setId = (await worker('POST', '/api/phrase-sets', { name: 'Mine', owner: OWN, phrases: ['okapi', 'tapir'] })).body.id
  const [ownRule, ownList] = [
    rule('Own', { owner: OWN, when: { phrases: ['okapi'] }, claims: [{ stop: { to: 'spam' } }] }),
    list('Spies', { owner: OWN, entries: SPY, assignment: { side: 'block', state: 'enabled', stop: { to: 'spam' } } }),
  ]
  ruleId = (await worker('POST', '/api/rules', ownRule)).body.id
  listId = (await worker('POST', '/api/lists', ownList)).body.id
  visible = (await receive(gate, { from: 'open@seen.test', subject: 'okapi seen', text: 'okapi' })).id
  expect([ruleId, listId, setId].every(Boolean)).toBe(true)
})
afterAll(() => gate.stop())

/** Made anew at each question. */
const NEW_ID = /[0-9a-f]{8}(?:-[0-9a-f]{4}){3}-[0-9a-f]{12}/g
const CLOCK = /"(reviewOn|addedAt)":"[^"]*"/g
/** As a message that is tried has it (RFC 5322 3.3). */
const MINUTE = /\d{4}-\d\d-\d\d \d\d:\d\d UTC/g
const DATE = /\w{3}, \d\d? \w{3} \d{4} [\d:]{8} \+0000/g
/** Without what the clock alone changes, and without ids of what is only suggested. */
const still = ({ status, body }: Called) => {
  const { after: _, before: __, at: ___, ...rest } = typeof body === 'object' && body !== null ? body : { body }
  const text = JSON.stringify(rest).replace(CLOCK, '"$1":"now"').replace(NEW_ID, 'new').replace(DATE, 'now').replace(MINUTE, 'now')
  return { status, rest: JSON.parse(text) as object }
}

const PATHS: Record<string, () => string[]> = {
  '/api/copies': () => ['', '?words=okapi', '?lane=quarantine', `?sender=${SPY}`, `?quarantine=${quarantine}`],
  '/api/copies/count': () => ['', '?words=okapi', '?words=zebrahide', `?sender=${SPY}`],
  '/api/attempts': () => ['', `?sender=${SPY}`, '?as=text'],
  '/api/review': () => ['', '?lane=spam', `?quarantine=${quarantine}`, '?lane=spam&by=sender'],
  '/api/review/items': () => ['', '?lane=spam', `?quarantine=${quarantine}`],
  '/api/entries': () => ['?words=spy'],
  '/api/audit-events': () => ['?limit=50'],
  '/api/jobs': () => ['?limit=50'],
  '/api/rules/:id': () => [ruleId],
  '/api/lists/:id': () => [listId],
  '/api/phrase-sets/:id/stats': () => [setId],
  '/api/copies/:id': () => [String(visible)],
  '/api/copies/:id/what-if': () => [String(visible)],
  '/api/lists/:id/file': () => [listId],
}

/** What the worker is told by every route that reads, and by those that look at what would be. */
async function allAnswers(): Promise<[string, unknown][]> {
  const out: [string, unknown][] = []
  for (const route of Object.keys(ACCESS)) {
    if (!route.startsWith('GET ') || ['GET /api/health', 'GET /api/setup', 'GET /api/invitations'].includes(route)) continue
    const pattern = route.slice(4)
    const ways = PATHS[pattern]?.() ?? (pattern.includes(':id') ? ['999999'] : [''])
    for (const way of ways) {
      const path = pattern.includes(':id') ? pattern.replace(':id', way) : pattern + way
      out.push([path, still(await worker('GET', path))])
    }
  }
  const put = (phrase: string) => putRule('Probe', { owner: OWN, when: { phrases: [phrase] } })
  for (const phrase of ['zebrahide', 'okapi', 'tapir'])
    for (const [path, form] of [
      ['/api/impact', { changes: [put(phrase)] }],
      ['/api/impact', { changes: [put(phrase)], proposed: false }],
      ['/api/impact/parts', { changes: [put(phrase)] }],
    ] as const) out.push([`${path} ${phrase}`, still(await worker('POST', path, form))])
  const block = { type: 'put', kind: 'entries', list: listId, entries: [{ kind: 'address', value: 'other@hidden.test' }] }
  const others: [string, object][] = [
    ['/api/impact', { changes: [{ type: 'remove', kind: 'list', id: listId }] }],
    ['/api/impact', { changes: [block] }],
    ['/api/impact', { changes: [{ type: 'remove', kind: 'rule', id: ruleId }] }],
    ['/api/fixes', { ids: [visible] }],
    ['/api/returns', { clause: { kind: 'rule', id: ruleId }, confirmed: false }],
    ['/api/dry-run', tried({ text: 'okapi' })],
  ]
  for (const [path, form] of others) out.push([`${path} ${JSON.stringify(form)}`, still(await worker('POST', path, form))])
  const { status, body } = await worker('POST', '/api/suggestions', { ids: [visible], owner: OWN })
  // Their ids are made anew each time.
  out.push(['/api/suggestions', [status, body.candidates?.map(({ net: _, changes: __, ...c }: Record<string, unknown>) => c)]])
  return out
}

const quiet = () => until('the installation has nothing left to do', () => gate.ask.isQuiet())

describe('mail that is held out of sight', () => {
  it('changes no answer of its recipient when it comes', async () => {
    await quiet()
    // Looking at a message is remembered.
    await worker('GET', `/api/copies/${visible}`)
    const before = await allAnswers()
    expect(before.filter(([, a]) => (a as { status?: number }).status === 200).length).toBeGreaterThan(25)
    await receive(gate, { from: SPY, subject: 'okapi zebrahide', text: 'zebrahide okapi tapir' })
    // From a sender, too, of whom something is there to see.
    await receive(gate, { from: 'open@seen.test', subject: 'zebrahide again', text: 'zebrahide' })
    expect(await gate.ask.countCopies({ quarantine })).toBe(2)
    await quiet()
    const after = await allAnswers()
    const other = before.map(([, answer], i) => !isSame(answer, after[i]![1]))
    expect(after.filter((_, i) => other[i])).toEqual(before.filter((_, i) => other[i]))
  })

  it('is not moved by a rule of its recipient that comes or goes, nor counted by the job', async () => {
    const existing = { lanes: ['inbox', 'spam', 'quarantine', 'bin'] }
    const { status, body } = await change(worker, [{ type: 'remove', kind: 'list', id: listId }], { existing, confirmed: { broad: true } })
    expect(status).toBe(202)
    const job = await jobEnded(worker, body.job)
    expect(job).toMatchObject({ state: 'done', total: 0, moved: 0, stayed: { count: 0, first: null } })
    expect((await gate.ask.oneCopy({ subject: 'okapi zebrahide' })).lane).toBe('quarantine')
    expect((await undo(worker, body.eventId)).status).toBe(200)
  })

  it('is nothing that its recipient can name', async () => {
    const { id } = await gate.ask.oneCopy({ subject: 'okapi zebrahide' })
    const named = await change(worker, [{ type: 'remove', kind: 'rule', id: ruleId }], {
      existing: { lanes: [], ids: [id] },
      confirmed: { broad: true },
    })
    const existing = { lanes: [], ids: [99_999_999] }
    const unknown = await change(worker, [{ type: 'remove', kind: 'rule', id: ruleId }], { existing, confirmed: { broad: true } })
    expect([named.status, named.body.detail]).toEqual([unknown.status, unknown.body.detail])
    expect(named.status).toBe(404)
  })
})

describe('what a reviewer holds by hand', () => {
  it('is not freed by its recipient, who removes their own rule and names the message', async () => {
    await receive(gate, { from: 'x@held.test', subject: 'okapi by hand', text: 'okapi' })
    const { id, lane } = await gate.ask.oneCopy({ subject: 'okapi by hand' })
    expect(lane).toBe('spam')
    expect((await admin('POST', '/api/copies/lane', { ids: [id], versions: 'any', lane: 'quarantine' })).status).toBe(200)
    const existing = { lanes: [], ids: [id] }
    const { status, body } = await change(worker, [{ type: 'remove', kind: 'rule', id: ruleId }], { existing, confirmed: { broad: true } })
    expect(status).toBe(202)
    await jobEnded(worker, body.job)
    expect((await gate.ask.copy(id)).lane).toBe('quarantine')
    // Who may release it does free it so.
    expect((await undo(worker, body.eventId)).status).toBe(200)
  })
})
