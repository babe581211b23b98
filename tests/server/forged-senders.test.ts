// A forged invoice in the name of a partner: it gains nothing from what the partner sent, and is let in by nobody unawares.
import { afterAll, beforeAll, describe, expect, inject, it } from 'vitest'
import { changed, holding, putRule } from '../support/clauses'
import { eventsOf, type Caller, signIn, undo } from '../support/http'
import { install, type Installation, receive, SMALL } from '../support/installation'
import { addressOf, OURS, ownerOf } from '../support/office'
import { until } from '../support/wait'

const PARTNER = 'billing@tidewater.example'
const PHRASE = 'keel duty'
const PLACE = 'lane=quarantine&quarantine=general'
let gate: Installation
let admin: Caller
let reviewer: Caller
let worker: Caller
let mandatory: string
let genuine: { id: number }[]
let forged: { id: number, version: number }

type Row = Record<string, any> // eslint-disable-line @typescript-eslint/no-explicit-any
const ranked = () => until('all is ranked', async () => !(await gate.ask.copies({ isRanked: false, lane: 'quarantine' })).length, 20_000)
const arrive = (subject: string, auth: 'pass' | 'fail' | null, over: object = {}) => receive(gate, {
  from: PARTNER,
  subject,
  text: `the ${PHRASE} is due`,
  ...(auth === null ? {} : { relay: true, auth }),
  ...over,
})
const groupsBy = async (by: string, more = ''): Promise<Row[]> =>
  (await reviewer('GET', `/api/review?${PLACE}&by=${by}${more}`)).body.groups
const itemsOf = async (key: string, by: string): Promise<Row[]> =>
  (await reviewer('GET', `/api/review/items?${PLACE}&by=${by}&key=${encodeURIComponent(key)}&limit=200`)).body.items
const toInbox = (who: Caller, ids: number[], more: object = {}) =>
  who('POST', '/api/copies/lane', { ids, versions: 'any', lane: 'inbox', ...more })
const setRelays = async (relays: unknown, enabled = true) => {
  const { version } = (await admin('GET', '/api/settings')).body
  const { status, body } = await admin('PUT', '/api/settings', { relays, verification: { enabled, servers: [] }, version })
  if (status !== 200) throw new Error(JSON.stringify(body))
}
const fixesFor = async (who: Caller, ids: number[]): Promise<Row[]> => {
  const { body } = await who('POST', '/api/fixes', { ids })
  return typeof body === 'string' ? (eventsOf<Row[]>(body).at(-1) ?? []) : body
}

beforeAll(async () => {
  gate = await install(inject('clusterFolder'), 'forged', { contents: SMALL })
  admin = await signIn(gate, 'admin')
  reviewer = await signIn(gate, 'reviewer')
  worker = await signIn(gate, 'worker')
  await changed(admin, holding('keel', PHRASE))
  mandatory = (await admin('GET', '/api/rules')).body.items.find((r: Row) => r.name === 'keel').id
  // The rule itself is right most of the time: so what is likely is likely because of its sender.
  const strangers = []
  for (let n = 0; n < 8; n++) strangers.push(await arrive(`Stranger ${n}`, null, { from: `s${n}@strangers.example` }))
  await admin('POST', '/api/copies/lane', { ids: strangers.map(s => s.id), versions: 'any', lane: 'bin', mark: 'unwanted' })
  genuine = []
  for (const n of ['one', 'two', 'three']) genuine.push(await arrive(`Tidewater ${n}`, 'pass'))
  await admin('POST', '/api/copies/judgement', { ids: genuine.slice(0, 2).map(g => g.id), versions: 'any', value: 'wanted' })
  forged = await arrive('Tidewater, please pay elsewhere', 'fail')
  await ranked()
})
afterAll(() => gate.stop())

describe('a forged invoice in Review', () => {
  it('is no likely mistake, and stands behind what is verified, though the partner’s mail was wanted', async () => {
    const key = `rule ${mandatory}`
    const items = await itemsOf(key, 'clause')
    const mine = items.find(i => i.id === forged.id)!
    expect(mine).toMatchObject({ likely: false, doubted: true, why: ['authentication failed: the From may be forged'] })
    const real = items.filter(i => genuine.some(g => g.id === i.id))
    expect(real.map(i => [i.likely, i.doubted])).toEqual([[true, false], [true, false], [true, false]])
    expect(items.indexOf(mine)).toBeGreaterThan(Math.max(...real.map(i => items.indexOf(i))))
    expect(items[0]!.id).not.toBe(forged.id)
  })

  it('is in a group of its own by sender, which says that nothing verified it; what is not verified is counted for “select all”', async () => {
    const own = (await groupsBy('sender')).filter(g => g.sender === PARTNER)
    expect(own.map(g => [g.words, g.verified, g.copies, g.doubted])).toEqual([
      [PARTNER, true, 3, 0],
      [`${PARTNER}, not verified`, false, 1, 1],
    ])
    expect((await itemsOf(own[1]!.key, 'sender')).map(i => i.id)).toEqual([forged.id])
    expect((await groupsBy('clause')).find(g => g.key === `rule ${mandatory}`)).toMatchObject({ copies: 4, doubted: 1 })
  })

  it('asked for by its recipient comes first among groups, and is called no likely mistake all the same', async () => {
    const { body } = await worker('POST', '/api/release-requests', { ids: [forged.id], note: 'ours, I think' })
    await ranked()
    const [first] = await groupsBy('clause')
    expect(first).toMatchObject({ key: 'asked' })
    const item = (await itemsOf('asked', 'clause')).find(i => i.id === forged.id)!
    expect([item.likely, item.why.at(-1)]).toEqual([false, 'authentication failed: the From may be forged'])
    // Who answers the request is asked as well.
    const { items } = (await reviewer('GET', '/api/release-requests')).body
    const request = items.find((r: Row) => r.copy?.id === forged.id)
    const answer = await reviewer('POST', `/api/release-requests/${request.id}/answer`, { release: true })
    expect([answer.status, answer.body.type]).toEqual([422, 'urn:sober-gate:problem:forged'])
    expect((await undo(worker, body.eventId)).status).toBe(200)
  })

  it('is found by its words, among what waits there', async () => {
    const found = await groupsBy('clause', '&words=pay+elsewhere+tidewater')
    expect(found.map(g => [g.key, g.copies])).toEqual([[`rule ${mandatory}`, 1]])
    expect(await groupsBy('clause', '&words=nothingofthekind')).toEqual([])
  })
})

describe('letting it in', () => {
  it('asks once, with what it claims and what was found; nothing moves before', async () => {
    const { status, body } = await toInbox(admin, [forged.id, genuine[0]!.id])
    expect([status, body.type]).toEqual([422, 'urn:sober-gate:problem:forged'])
    expect(body.forgeries).toEqual([expect.objectContaining({ id: forged.id, sender: PARTNER, verdict: 'fail' })])
    expect(body.forgeries[0].claims).toBe('2 verified messages from this address marked wanted')
    expect(body.forgeries[0].found).toContain('authentication failed (DMARC')
    const [copy] = await gate.ask.copies({ ids: [genuine[0]!.id] })
    expect(copy!.lane).toBe('quarantine')
    // Another message's confirmation is none for this one.
    expect((await toInbox(admin, [forged.id], { confirmed: [genuine[0]!.id] })).status).toBe(422)
    const done = await toInbox(admin, [forged.id], { confirmed: [forged.id] })
    expect(done.status).toBe(200)
    expect((await undo(admin, done.body.eventId)).status).toBe(200)
  })

  it('a whole filter asks beforehand, and leaves out what it was not told about', async () => {
    const query = { words: 'tidewater', lane: ['quarantine'] }
    const asked = await admin('POST', '/api/copies/lane', { query, lane: 'inbox' })
    expect([asked.status, asked.body.forgeries.map((f: Row) => f.id)]).toEqual([422, [forged.id]])
    const { status, body } = await admin('POST', '/api/copies/lane', { query: { ...query, except: [forged.id] }, lane: 'inbox' })
    expect(status).toBe(202)
    await until('it is done', async () => (await admin('GET', `/api/jobs/${body.job}`)).body.state === 'done', 20_000)
    const lanes = await gate.ask.copies({ about: 'Tidewater' })
    expect(lanes.map(c => [c.id === forged.id, c.lane]).sort()).toEqual([
      [false, 'inbox'], [false, 'inbox'], [false, 'inbox'], [true, 'quarantine'],
    ])
    expect((await undo(admin, body.eventId)).status).toBe(200)
  })

  it('is not asked of a stranger’s message, nor of what is moved elsewhere; of your own domain it is', async () => {
    const stranger = await arrive('A stranger', 'fail', { from: 'nobody@elsewhere.example' })
    const let1 = await toInbox(admin, [stranger.id])
    expect(let1.status).toBe(200)
    expect((await admin('POST', '/api/copies/lane', { ids: [forged.id], versions: 'any', lane: 'bin' })).status).toBe(200)
    // Out of the bin it is asked again.
    expect((await toInbox(admin, [forged.id])).status).toBe(422)
    expect((await admin('POST', '/api/copies/lane', { ids: [forged.id], versions: 'any', lane: 'quarantine' })).status).toBe(200)
    const own = await arrive('From within', 'fail', { from: `director@${OURS}` })
    const asked = await toInbox(admin, [own.id])
    expect([asked.status, asked.body.forgeries[0].claims]).toEqual([422, `${OURS} is one of your own domains`])
  })
})

describe('what would let in mail like it', () => {
  it('is none made from it: no sender is excepted or allowed, and nothing mandatory loosened', async () => {
    expect(await fixesFor(admin, [forged.id])).toEqual([])
    expect(await fixesFor(worker, [forged.id])).toEqual([])
  })

  it('allowed by hand says that it would not count for it, and not that something else takes precedence', async () => {
    const { body } = await worker('POST', '/api/suggestions', { ids: [forged.id], then: { to: 'inbox' } })
    const preset = body.candidates[body.preset]
    expect(preset.stays).toEqual([{ id: forged.id, why: 'its sender is not verified, and anyone can write this From.' }])
    expect([body.contrary, preset.impact.freedNotVerified]).toEqual([[], 0])
  })

  it('made from the partner’s verified mail lets in that alone: the next forged one is held', async () => {
    const found = await fixesFor(admin, [genuine[2]!.id])
    const address = found.find(f => f.kind === 'exception: address')!
    expect([address.sentence, address.opens]).toEqual([`Add an exception for ${PARTNER}, if verified, to rule “keel”`, undefined])
    expect(found[0]!.opens).toBeUndefined()
    expect(found.map(f => f.kind)).not.toContain('exception: recipient')
    const { eventId } = await changed(admin, ...address.changes)
    expect((await arrive('Tidewater next', 'pass')).lane).toBe('inbox')
    expect((await arrive('Tidewater next, forged', 'fail')).lane).toBe('quarantine')
    expect((await arrive('Tidewater next, nothing verified', null)).lane).toBe('quarantine')
    expect((await undo(admin, eventId)).status).toBe(200)
  })

  it('a mandatory rule takes no exception that counts on less than verified, by whatever way', async () => {
    const rule = (await admin('GET', `/api/rules/${mandatory}`)).body
    const except = [{ sender: { kind: 'address', value: PARTNER }, counts: 'notFailed' }]
    const { status, body } = await admin('POST', '/api/changes', {
      base: (await admin('GET', '/api/directory')).body.policy.version,
      coming: true,
      changes: [putRule('keel', { id: mandatory, mandatory: true, when: rule.when, claims: rule.claims, except })],
    })
    expect([status, JSON.stringify(body)]).toEqual([422, expect.stringContaining('only verified senders count')])
  })

  it('allowed by its recipient counts if verified, and by older entries as they did', async () => {
    const allow = { type: 'put', kind: 'entries', list: 'my-partners', entries: [{ kind: 'address', value: 'ada@isles.example' }] }
    const rule = putRule('isle toll', { id: 'isle' })
    const { eventId } = await changed(admin, rule)
    await changed(worker, allow)
    const get = (auth: 'pass' | 'fail' | null) => arrive('isle toll', auth, { from: 'ada@isles.example', text: `isle toll ${auth}` })
    const lanes = [(await get('pass')).lane, (await get(null)).lane, (await get('fail')).lane]
    // This list was made when personal lists counted unless authentication failed, and says so.
    expect(lanes).toEqual(['inbox', 'inbox', 'spam'])
    const own = [
      { type: 'put', kind: 'list', value: { id: 'isles', name: 'Isles', owner: ownerOf('worker'), usualSide: 'allow', enabled: true } },
      { type: 'put', kind: 'entries', list: 'isles', entries: allow.entries },
      { type: 'put', kind: 'assignment', value: { id: 'isles-in', list: 'isles', owner: ownerOf('worker'), side: 'allow', state: 'enabled' } },
    ]
    await changed(worker, { ...allow, type: 'remove' }, ...own)
    expect([(await get('pass')).lane, (await get(null)).lane, (await get('fail')).lane]).toEqual(['inbox', 'spam', 'spam'])
    await undo(admin, eventId)
  })
})

describe('where nothing can verify senders', () => {
  it('nothing is likely because of its sender, and only failed authentication is asked about', async () => {
    const before = (await admin('GET', '/api/settings')).body
    await setRelays([], false)
    try {
      const plain = await arrive('Tidewater unverified', null)
      await ranked()
      const item = (await itemsOf(`rule ${mandatory}`, 'clause')).find(i => i.id === plain.id)!
      expect([item.likely, item.doubted]).toEqual([false, false])
      const done = await toInbox(admin, [plain.id])
      expect(done.status).toBe(200)
      await undo(admin, done.body.eventId)
      expect((await toInbox(admin, [forged.id])).status).toBe(422)
    }
    finally {
      await setRelays(before.relays)
    }
  })
})

describe('what is held for somebody', () => {
  it('is counted for each user, their own, and none of it for whom the quarantine shows nothing', async () => {
    const held = async (who: Caller) => (await who('GET', '/api/review/count')).body.waiting as number
    const before = await held(worker)
    expect(before).toBeGreaterThan(0)
    await arrive('Tidewater for the worker', 'pass', { to: addressOf('worker') })
    expect(await held(worker)).toBe(before + 1)
  })
})
