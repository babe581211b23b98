// Figures that are true for all of the mail: each is held against a plain recount of every copy. A figure that is silently partial would
// let somebody save what they did not see.
import { afterAll, beforeAll, describe, expect, inject, it } from 'vitest'
import { directionOf, makeAddress, stagesOf, type Message, type Policy, type Rule } from '#core'
import { apply, completed, differences, type PolicyChange } from '#core/change'
import { isWhole, type Impact } from '#core/simulate'
import type { Actor } from '../../server/access/roles'
import { Random } from '../../demo'
import { putRule, rule } from '../support/clauses'
import { type Caller, eventsOf, JSON_TYPE, request, signIn } from '../support/http'
import { install, type Installation, MEDIUM } from '../support/installation'
import { ownerOf, personOf } from '../support/office'
import type { Copy } from '../support/questions'
import { figuresOf, recounting, type Recount } from '../support/recounted'

let gate: Installation
let admin: Caller
let mail: Recount
/** The simulation itself, in this process: with steps as small as one wants. */
let simulateNets: typeof import('../../server/impact/simulation')['simulateNets']
const random = new Random(28)
const ADMIN = { id: personOf('admin'), name: 'admin', role: 'administrator', departments: [] } as unknown as Actor
const SMALL_STEPS = { first: 7, next: 31, fetch: { first: 3, next: 50 }, toldAfter: 0, toldEvery: 0 }

beforeAll(async () => {
  gate = await install(inject('clusterFolder'), 'figures', { contents: MEDIUM })
  admin = await signIn(gate, 'admin')
  process.env.DATABASE_URL = gate.databaseUrl
  ;({ simulateNets } = await import('../../server/impact/simulation'))
  await markSome()
  mail = await recounting(gate.ask)
})
afterAll(async () => {
  const { closeDb } = await import('../../server/db/client')
  await closeDb()
  await gate.stop()
})

/** Many more copies are marked, right or wrong, and some lie where a hand put them. */
async function markSome() {
  const lines = await gate.ask.copies()
  const here = lines.filter(c => ['inbox', 'spam', 'quarantine', 'bin'].includes(c.lane))
  for (const value of ['wanted', 'unwanted']) {
    const ids = here.filter(() => random.chance(0.15)).map(c => c.id).slice(0, 150)
    expect((await admin('POST', '/api/copies/judgement', { ids, value, versions: 'any' })).status).toBe(200)
  }
  const moved = here.filter(c => c.lane === 'inbox' && random.chance(0.05)).map(c => c.id).slice(0, 20)
  await admin('POST', '/api/copies/lane', { ids: moved, lane: 'bin', versions: 'any' })
}

const value = (change: object) => (change as { value: Rule }).value
const put = (r: Rule): PolicyChange => ({ type: 'put', kind: 'rule', value: r })

/** Changes of all kinds, from the mail and the policy that are here. */
function changesOf({ policy, copies }: Recount): Record<string, PolicyChange[]> {
  const out: Record<string, PolicyChange[]> = {}
  const some = copies.filter(c => c.message && c.message.content.segments.length > 1)
  const words = (count: number) => {
    const text = random.pick(random.pick(some).message!.content.segments.slice(1)).text.trim().split(/\s+/)
    const at = random.between(0, Math.max(0, text.length - count))
    return text.slice(at, at + count).join(' ').slice(0, 80) || 'the'
  }
  const entries = (kind: string, of: string) =>
    [{ type: 'put', kind: 'entries', list: 'speculators', entries: [{ kind, value: of }] }] as unknown as PolicyChange[]
  for (let i = 0; i < 6; i++) {
    const { copy } = random.pick(some)
    if (copy.senderAddress) out[`address ${copy.senderAddress}`] = entries('address', copy.senderAddress)
    if (copy.senderDomain) out[`domain ${copy.senderDomain}`] = entries('domainAndSubdomains', copy.senderDomain)
  }
  for (let i = 0; i < 12; i++)
    for (const [name, more] of Object.entries({
      'whole words': {},
      'parts of words': { whole: false },
      'bare': { view: 'bare' },
      'obfuscated': { view: 'obfuscated' },
      'anywhere': { where: ['subject', 'own', 'header', 'link'] },
    })) {
      const phrases = [words(random.between(1, 3)), words(2)]
      const when = { phrases: i % 3 ? phrases.slice(0, 1) : phrases, ...more }
      out[`${name}: ${phrases.join()}`] = [putRule(`r${i} ${name}`, { when }) as unknown as PolicyChange]
    }
  for (let i = 0; i < 4; i++) {
    const when = { all: [{ phrases: [words(1)] }, { none: [{ sender: { kind: 'domain', value: random.pick(some).copy.senderDomain } }] }] }
    out[`group ${i}`] = [putRule(`group ${i}`, { when }) as unknown as PolicyChange]
  }
  for (const r of policy.rules) {
    if (r.state === 'enabled') out[`without rule ${r.name}`] = [put({ ...r, state: 'disabled' })]
    if ('phrases' in r.when && r.when.phrases && r.when.phrases.length > 1)
      out[`a phrase less in ${r.name}`] = [put({ ...r, when: { ...r.when, phrases: r.when.phrases.slice(1) } })]
    const exception = { sender: { kind: 'domain' as const, value: random.pick(some).copy.senderDomain || 'x.test' } }
    out[`an exception more in ${r.name}`] = [put({ ...r, except: [...r.except, exception] })]
  }
  for (const u of policy.assignments.filter(a => a.state === 'enabled'))
    out[`list ${u.list} not used for ${u.owner}`] = [{ type: 'put', kind: 'assignment', value: { ...u, state: 'disabled' } }]
  for (const l of policy.lists.filter(one => one.entries.length)) {
    const gone = l.entries.slice(0, 2).map(({ kind, value: of }) => ({ kind, value: of }))
    out[`entries off ${l.name}`] = [{ type: 'remove', kind: 'entries', list: l.id, entries: gone }]
  }
  for (const s of policy.phraseSets)
    out[`set ${s.name}`] = [{ type: 'put', kind: 'phraseSet', value: { ...s, phrases: s.phrases.slice(1) } } as PolicyChange]
  const ids = policy.rules.filter(r => r.owner === 'organisation').map(r => r.id)
  out.order = [{ type: 'order', owner: 'organisation', ids: [...ids].reverse() } as unknown as PolicyChange]
  return out
}

function netOf(policy: Policy, changes: readonly PolicyChange[]): PolicyChange[] {
  let n = 0
  const applied = apply(policy, completed(changes, { id: () => `made ${n++}`, now: new Date().toISOString(), by: null }))
  if ('problems' in applied) throw new Error(JSON.stringify([changes, applied.problems]))
  return differences(policy, applied.policy)
}

describe('every figure of a change equals a recount of each copy', () => {
  it('whatever changes, asked all at once in the smallest steps, and none on the way says that it is whole', async () => {
    const all = Object.entries(changesOf(mail)).filter(([, changes]) => netOf(mail.policy, changes).length)
    expect(all.length).toBeGreaterThan(80)
    let partial = 0
    const tell = (impacts: Impact[]) => {
      partial++
      for (const so of impacts) expect(isWhole(so)).toBe(false)
    }
    const impacts: Impact[] = []
    for (let at = 0; at < all.length; at += 20) {
      const nets = all.slice(at, at + 20).map(([, changes]) => netOf(mail.policy, changes))
      impacts.push(...(await simulateNets(ADMIN, nets, { steps: SMALL_STEPS, tell })))
    }
    expect(partial).toBeGreaterThan(50)
    let moves = 0
    for (const [i, [name, changes]] of all.entries()) {
      const personal = changes.flatMap(c => ('value' in c && 'owner' in c.value ? [c.value.owner] : [])).find(o => o?.startsWith('person:'))
      const recounted = mail.of(changes, personal?.slice('person:'.length))
      if (!recounted) continue
      // Over whose mail a department's or a person's clause stands is another question.
      const { inScope: _, ...figures } = figuresOf(impacts[i]!)
      const { inScope: __, ...expected } = recounted
      expect({ name, ...figures }).toEqual({ name, ...expected })
      expect(isWhole(impacts[i]!), name).toBe(true)
      moves += recounted.moves
    }
    // Otherwise it would say little.
    expect(moves).toBeGreaterThan(500)
  })

  it('also where the words of old mail are not known yet: it is looked through', async () => {
    const of = async () => figuresOf((await simulateNets(ADMIN, [netOf(mail.policy, [ruleFor('the')])]))[0]!)
    const before = await of()
    expect(before.moves).toBeGreaterThan(0)
    await gate.ask.forgetWords()
    expect(await of()).toEqual(before)
  })
})

const ruleFor = (phrase: string, more: object = {}) => putRule(`about ${phrase}`, { when: { phrases: [phrase] }, ...more }) as unknown as PolicyChange

/** Asks for what streams; the last answer is whole, and nothing before is. */
async function followed<T>(path: string, body: object, figures: (item: T) => { looked: number, inScope: number }[]): Promise<T> {
  const answer = await request(gate.url, `${path}?follow=yes`, {
    method: 'POST',
    headers: { cookie: admin.cookie, ...JSON_TYPE },
    body: JSON.stringify(body),
  })
  const answers = eventsOf<T>(answer.text)
  for (const so of answers.slice(0, -1)) for (const far of figures(so)) expect(far.looked).toBeLessThan(far.inScope)
  for (const far of figures(answers.at(-1)!)) expect(far.looked).toBe(far.inScope)
  return answers.at(-1)!
}

interface Counted { changes: PolicyChange[], impact: Impact, sentence?: string, kind: string }

describe('fixes and candidates', () => {
  it('of mistakes say the figures of all mail: one press lets in what it said, and no more', async () => {
    const wrong = mail.copies.filter(({ copy: c, message }) =>
      message && c.movedBy === null && ((c.judgement === 'wanted' && ['spam', 'quarantine'].includes(c.lane))
        || (c.judgement === 'unwanted' && c.lane === 'inbox')))
    let compared = 0
    for (const { copy } of wrong.slice(0, 8)) {
      const fixes = await followed<Counted[]>('/api/fixes', { ids: [copy.id] }, all => all.map(f => f.impact))
      for (const { changes, impact, sentence } of fixes) {
        const { inScope: _, ...figures } = figuresOf(impact)
        const recounted = mail.of(changes)
        if (!recounted) continue
        const { inScope: __, ...expected } = recounted
        expect({ sentence, ...figures }).toEqual({ sentence, ...expected })
        compared++
      }
    }
    expect(compared).toBeGreaterThan(20)
  })

  it('of blocking a sender, with what each says of how far it looked', async () => {
    let compared = 0
    for (let i = 0; i < 10; i++) {
      const { copy } = random.pick(mail.copies.filter(c => c.message && c.copy.senderAddress && c.copy.lane === 'inbox'))
      const { body } = await admin('POST', '/api/suggestions', { ids: [copy.id], then: { to: 'spam' }, owner: 'organisation' })
      for (const { changes, impact, kind } of body.candidates as Counted[]) {
        expect(impact.looked).toBe(impact.inScope)
        const recounted = mail.of(changes)
        if (!recounted) continue
        expect({ kind, ...figuresOf(impact) }).toEqual({ kind, ...recounted })
        compared++
      }
    }
    expect(compared).toBeGreaterThan(20)
  })
})

describe('parts of a rule, and the phrases of a set', () => {
  it('are counted over all mail in scope', async () => {
    const phrases = ['release fee', 'invoice', 'the']
    const made = rule('parts', { when: { all: [{ phrases }, { none: [{ phrases: ['zzyzx'] }] }] } })
    type Parts = { looked: number, inScope: number, whole: object, parts: { phrase: string | null, catches: object }[] }
    const parts = await followed<Parts>('/api/impact/parts', { changes: [{ type: 'put', kind: 'rule', value: made }] }, p => [p])
    for (const phrase of phrases) {
      const of = mail.copies.filter(({ copy, message }) => message && isInbound(copy, message) && matched(message, value(ruleFor(phrase))))
      const count = (j: string | null) => of.filter(({ copy }) => copy.judgement === j).length
      expect([phrase, parts.parts.find(p => p.phrase === phrase)?.catches])
        .toEqual([phrase, { wanted: count('wanted'), unwanted: count('unwanted'), unmarked: count(null) }])
    }
  })

  const isInbound = ({ recipient }: Copy, { attempt }: Message) =>
    stagesOf(directionOf(attempt, makeAddress(recipient), mail.policy.trust)).includes('inbound')

  // Written down for three phrases of whole words that stand in subject or text.
  function matched({ content }: Message, { when }: Rule): boolean {
    const [phrase] = (when as { phrases: string[] }).phrases
    const pattern = new RegExp(`(?<![\\p{L}\\p{N}])${phrase!.replaceAll(' ', '\\s+')}(?![\\p{L}\\p{N}\\p{M}])`, 'iu')
    return content.segments.some(({ place, text }) => ['subject', 'own', 'quoted', 'hidden'].includes(place) && pattern.test(text.normalize('NFKC')))
  }

  it('of a worker say nothing of others’ mail', async () => {
    const worker = await signIn(gate, 'worker')
    const own = rule('own', { owner: ownerOf('worker'), when: { phrases: ['the', 'invoice'] } })
    const { body } = await worker('POST', '/api/impact/parts', { changes: [{ type: 'put', kind: 'rule', value: own }] })
    expect(body.looked).toBe(body.inScope)
    expect(body.inScope).toBe(await gate.ask.countCopies({ person: personOf('worker') }))
  })
})

describe('mail that was erased', () => {
  it('is forgotten at once by everything that reads: equal questions give equal figures, and its source is gone', async () => {
    const { eraseRows } = await import('../../server/retention/erase')
    const net = { changes: [ruleFor('invoice')] }
    const ask = async () => (await admin('POST', '/api/impact', net)).body as Impact
    // Each thread has read it.
    const before = (await Promise.all(Array.from({ length: 4 }, ask)))[0]!
    const [gone] = mail.copies.filter(({ copy, message }) => copy.lane === 'bin' && copy.movedBy === null && message && hasWord(message))
    await gate.ask.db.transaction(tx => eraseRows(tx, [gone!.copy], { kind: 'expired', lane: 'bin', days: 1 }))
    const copies = (await gate.ask.copies({})).filter(c => c.messageId === gone!.copy.messageId)
    expect(copies.every(c => c.lane === 'discarded')).toBe(copies.length === 1)
    for (let i = 0; i < 6; i++) expect((await ask()).copies).toBe(before.copies - 1)
    const { status, body } = await admin('GET', `/api/copies/${gone!.copy.id}/source`)
    expect([status, body.detail]).toEqual([410, expect.stringMatching(/Only its log entry is left/)])
  })

  const hasWord = ({ content }: { content: { segments: { text: string }[] } }) =>
    content.segments.some(({ text }) => /\binvoice\b/i.test(text))
})
