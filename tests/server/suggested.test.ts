// What is suggested from messages and searches: it is what was shown, for whom it is, and what it would find.
import { afterAll, beforeAll, describe, expect, inject, it } from 'vitest'
import { changed, holding, putRule } from '../support/clauses'
import { signIn, undo, type Called, type Caller } from '../support/http'
import { install, MEDIUM, receive, type Installation } from '../support/installation'
import { addressOf, ownerOf } from '../support/office'

let gate: Installation
let admin: Caller
let worker: Caller

beforeAll(async () => {
  gate = await install(inject('clusterFolder'), 'suggested', { contents: MEDIUM })
  admin = await signIn(gate, 'admin')
  worker = await signIn(gate, 'worker')
})
afterAll(() => gate.stop())

interface Offer {
  kind: string
  phrases: string[]
  obfuscated: boolean
  changes: object[]
  impact: { copies: number }
  hits: number
}
const suggest = async (who: Caller, asked: object): Promise<Called['body']> => {
  const { status, body } = await who('POST', '/api/suggestions', asked)
  if (status !== 200) throw new Error(`${status} ${JSON.stringify(body)}`)
  return body
}
const found = async (words: string) => (await admin('GET', `/api/copies?limit=100&words=${encodeURIComponent(words)}`)).body.items
const get = async (from: string, subject: string, text: string, over: object = {}) =>
  receive(gate, { from, subject, text, to: addressOf('worker'), ...over })

describe('a rule from a search', () => {
  const SEARCHES = [
    'invoice', 'handling fee', 'berth winter', 'container held', '"release fee"', '"your container" fee', 'quayline inv', 'gräb', 'crane fri',
    'zürich "über die"', 'accounts quayline', 'programme.pdf',
  ]
  beforeAll(async () => {
    await get('u@umlaut.test', 'Grüße aus Zürich', 'Wir sprachen über die Gräben, ueber die Graben, über\n die Brücke.')
    await get('v@umlaut.test', 'aus Zurich', 'ueber die Graben')
    await get('w@umlaut.test', 'Zürich', 'Die Fahrt über, die See')
  })
  it.each(SEARCHES)('%s: catches what the search showed, to the message', async (words) => {
    const shown = await found(words)
    if (shown.length >= 100) return expect((await admin('GET', `/api/copies/count?words=${encodeURIComponent(words)}`)).body.total).toBeGreaterThan(0)
    if (!shown.length) return expect((await admin('POST', '/api/suggestions', { query: { words } })).status).toBe(422)
    const { candidates, preset, unsaid } = await suggest(admin, { query: { words }, then: { to: 'spam' }, owner: 'organisation' })
    expect(preset).toBe(0)
    // What only has the words as a tag is shown, and no rule finds it: that is said.
    if (unsaid.length) return expect(unsaid).toEqual(['messages that have the words as a tag'])
    const [search] = candidates as Offer[]
    expect(search!.kind).toBe('search')
    // Whatever ends elsewhere already is found all the same.
    const kept = shown.filter((c: { gone: string | null }) => c.gone === null)
    expect([search!.impact.copies, search!.hits]).toEqual([kept.length, kept.length])
  })
  it('finds quoted words only one after the other, and without quotes anywhere', async () => {
    const subjects = async (words: string) => (await found(words)).map((c: { subject: string }) => c.subject).sort()
    expect(await subjects('umlaut "über die"')).toEqual(['Grüße aus Zürich'])
    expect(await subjects('umlaut über die')).toEqual(['Grüße aus Zürich', 'Zürich'])
    // A quotation mark that is never closed is none; nor is one with nothing in it.
    expect(await subjects('umlaut "über')).toEqual(['Grüße aus Zürich', 'Zürich'])
    expect(await subjects('umlaut ""')).toHaveLength(3)
    expect(await subjects('umlaut "[.*+?(" "aus zürich"')).toEqual(['Grüße aus Zürich'])
  })
  it('names what of the filter no rule can say, and lets nothing in by a sender that anybody can write', async () => {
    const query = { words: 'umlaut', lane: ['inbox'], judgement: 'unmarked', after: '2020-01-01T00:00:00Z' }
    expect((await suggest(admin, { query, then: { to: 'spam' } })).unsaid).toEqual(['the location', 'how messages are marked', 'the dates'])
    const allowing = await suggest(admin, { query: { words: 'umlaut' }, then: { to: 'inbox' } })
    expect(JSON.stringify(allowing.candidates[0].changes)).not.toMatch(/header:|hidden|sender name/)
    expect(allowing.unsaid).toEqual(['words that only stand in hidden or quoted text, or in the sender'])
  })
})

describe('whose a suggestion is', () => {
  it('of an administrator’s own mail it is theirs; of others’ mail the organisation’s; a worker’s always theirs', async () => {
    const own = await receive(gate, { from: 'a@own-mail.test', subject: 'own mail', text: 'x', to: addressOf('admin') })
    const other = await get('a@own-mail.test', 'others mail', 'x')
    expect((await suggest(admin, { ids: [own.id] })).owner).toBe(ownerOf('admin'))
    expect((await suggest(admin, { ids: [other.id] })).owner).toBe('organisation')
    expect((await suggest(admin, { ids: [own.id, other.id] })).owner).toBe('organisation')
    expect((await suggest(worker, { ids: [other.id] })).owner).toBe(ownerOf('worker'))
  })
})

describe('what a change finds in the messages in front of somebody', () => {
  it('is told, also where it moves none of them; of messages that one does not see, nothing', async () => {
    const copy = await get('a@hits.test', 'hits', 'a brass gimbal')
    const hits = async (who: Caller, phrase: string, owner = 'organisation') =>
      (await who('POST', '/api/impact/hits', { changes: [putRule('Hits', { owner, when: { phrases: [phrase] } })], ids: [copy.id] })).body
    expect(await hits(admin, 'brass gimbal')).toEqual({ hits: 1, of: 1 })
    expect(await hits(admin, 'nothing like it')).toEqual({ hits: 0, of: 1 })
    const colleague = await signIn(gate, 'emeka.strand')
    expect(await hits(colleague, 'brass gimbal', ownerOf('emeka.strand'))).toEqual({ hits: 0, of: 0 })
    // An allow entry that does not count for a sender that nothing verified finds nothing.
    const { candidates } = await suggest(worker, { ids: [copy.id], then: { to: 'inbox' } })
    expect(candidates.find((c: Offer) => c.kind === 'address').hits).toBe(0)
  })
})

describe('phrases that are offered for real mail', () => {
  it('share no word with each other, hold no number, and most catch more than the one message', async () => {
    const { body } = await admin('GET', '/api/copies?limit=60')
    let wider = 0
    let asked = 0
    for (const copy of body.items.filter((_: unknown, i: number) => i % 3 === 0)) {
      const { candidates } = await suggest(admin, { ids: [copy.id] })
      const phrases = (candidates as Offer[]).filter(c => c.kind === 'phrase')
      if (!phrases.length) continue
      asked++
      const words = phrases.map(c => c.phrases[0]!.split(' '))
      for (const [i, own] of words.entries())
        for (const other of words.slice(i + 1)) expect(own.filter(w => w.length > 4 && other.includes(w)), `${own} / ${other}`).toEqual([])
      for (const { phrases: [text] } of phrases) expect(text).not.toMatch(/\d/)
      if (phrases.some(c => c.impact.copies > 1)) wider++
    }
    expect(asked).toBeGreaterThan(10)
    expect(wider / asked).toBeGreaterThan(0.8)
  })
})

describe('fixes of many messages', () => {
  it('of thirty that were missed, from thirty senders, block them by their words; public providers are warned of and never first', async () => {
    const ids: number[] = []
    for (let i = 0; i < 30; i++) {
      const copy = await get(`m${i}@${i % 3 ? `camp-${i}.test` : 'gmail.com'}`, `n${i}`, `ab${i}. Guaranteed porthole polish for everybody. cd${i}`)
      ids.push(copy.id)
    }
    const { body } = await admin('POST', '/api/fixes', { ids })
    const [first] = body
    expect(first).toMatchObject({ kind: 'new phrase', fixes: 30, of: 30, should: 'stopped' })
    expect(first.sentence).toContain('porthole polish')
    const byAddress = body.find((f: { kind: string }) => f.kind === 'sender: address')
    expect(byAddress).toMatchObject({ fixes: 30 })
    expect(byAddress.why).toContain('The senders change, so it would not stop the next message')
    const domains = body.filter((f: { kind: string }) => f.kind === 'sender: domain')
    for (const fix of domains) expect(fix).toMatchObject({ publicProvider: 'gmail.com', inCover: false })
    expect(domains[0].why).toContain('Anyone can have a mailbox at gmail.com')
    // The providers that ship can be changed in Settings; addresses for a day, and placeholders, are none.
    const { publicProviders } = (await admin('GET', '/api/settings')).body
    expect(publicProviders).toEqual(expect.arrayContaining(['gmail.com', 'gmx.de', 'proton.me', 'orange.fr', 'letterpost.test']))
    for (const none of ['mailinator.com', '10minutemail.com', 'example.com']) expect(publicProviders).not.toContain(none)
  })
  it('go together as one change, or say that they do not; and only what one may see and save', async () => {
    const made = await changed(admin, holding('together', 'tarred oakum', 'general', { mandatory: false }))
    const rule = (await admin('GET', '/api/policy')).body.rules.find((r: { id: string }) => r.id === 'together')
    const copies = [await get('a@one.test', 'together 1', 'tarred oakum', { relay: true }), await get('b@two.test', 'together 2', 'tarred oakum', { relay: true })]
    const ids = copies.map(c => c.id)
    const except = (value: string) => ({
      sentence: `Add an exception for ${value}`,
      changes: [{ type: 'put', kind: 'rule', value: { ...rule, except: [{ sender: { kind: 'address', value } }] } }],
    })
    const ask = (who: Caller, fixes: object[], about = ids) => who('POST', '/api/fixes/together', { ids: about, fixes })
    const { status, body } = await ask(admin, [except('a@one.test'), except('b@two.test')])
    expect([status, body.fixes, body.of, body.permission]).toEqual([200, 2, 2, 'own'])
    expect(body.sentence).toBe('Add an exception for a@one.test; add an exception for b@two.test')
    const renamed = (name: string) => ({ sentence: `Call it ${name}`, changes: [{ type: 'put', kind: 'rule', value: { ...rule, name } }] })
    expect((await ask(admin, [renamed('A'), renamed('B')])).status).toBe(422)
    expect((await ask(admin, [except('a@one.test')], [999_999])).status).toBe(404)
    // A worker may only propose it, and sees of their own mail alone what it does.
    expect((await ask(worker, [except('a@one.test')])).body.permission).toBe('ask')
    expect((await ask(await signIn(gate, 'emeka.strand'), [except('a@one.test')])).status).toBe(404)
    await undo(admin, made.eventId)
  })
})
