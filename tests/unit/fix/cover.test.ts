// Of a group that went wrong: what is taken in one press must leave fewer mistakes than there were, and as few as can be.
import { describe, expect, it } from 'vitest'
import { compilePolicy, decide, isDelivered, type CompiledPolicy, type Message, type Policy } from '#core'
import { apply, completed, type PolicyChange } from '#core/change'
import { coverOf, fixesFor, together, type Effect, type Fix } from '#core/fix'
import { letter, NOW, OURS, policy } from '../../support/build'
import { Random } from '../../../demo/random'

const OSKAR = `oskar@${OURS}`
const numbered = () => {
  let n = 0
  return () => `new-${++n}`
}

/** Mistakes that are left and that are made, where these fixes are taken. */
function costOf(effects: readonly Effect[], taken: readonly number[]): number {
  const all = new Set(effects.flatMap(e => e.corrects))
  const corrected = new Set(taken.flatMap(i => effects[i]!.corrects))
  const harms = new Map(taken.flatMap(i => [...effects[i]!.harms]))
  return all.size - corrected.size + [...harms.values()].reduce((sum, h) => sum + h, 0)
}

function leastOf(effects: readonly Effect[], fits: (a: number, b: number) => boolean): number {
  let least = Infinity
  for (let bits = 0; bits < 2 ** effects.length; bits++) {
    const taken = [...effects.keys()].filter(i => bits & (1 << i))
    if (taken.every(a => taken.every(b => a === b || fits(a, b)))) least = Math.min(least, costOf(effects, taken))
  }
  return least
}

describe('the fixes that are taken together', () => {
  it('leave as few mistakes as any choice of them, tried one by one, in 95 of 100 cases, and never twice as many', () => {
    let best = 0
    const CASES = 400
    for (let seed = 1; seed <= CASES; seed++) {
      const random = new Random(seed)
      const some = (of: number, share: number) => Array.from({ length: of }, (_, id) => id).filter(() => random.next() < share)
      const effects = Array.from({ length: 3 + random.between(0, 7) }, (): Effect => ({
        corrects: some(8, 0.35),
        harms: new Map(some(12, 0.15).map(id => [100 + id, id % 3 ? 0.6 : 1])),
      }))
      const apart = new Set(some(100, 0.1).map(n => `${Math.floor(n / 10)} ${n % 10}`))
      const fits = (a: number, b: number) => !apart.has(`${a} ${b}`) && !apart.has(`${b} ${a}`)
      const taken = coverOf(effects, fits)
      const [cost, least] = [costOf(effects, taken), leastOf(effects, fits)]
      expect(taken.every(a => taken.every(b => a === b || fits(a, b)))).toBe(true)
      expect(cost).toBeLessThanOrEqual(2 * least + 1e-9)
      if (cost <= least + 1e-9) best++
    }
    expect(best).toBeGreaterThanOrEqual(0.95 * CASES)
  })

  it('are none where each makes more mistakes than it corrects, and none twice where one does it all', () => {
    const never = () => true
    expect(coverOf([{ corrects: [1, 2], harms: new Map([[8, 1], [9, 1]]) }], never)).toEqual([])
    expect(coverOf([{ corrects: [1], harms: new Map() }, { corrects: [1, 2], harms: new Map() }], never)).toEqual([1])
    expect(coverOf([], never)).toEqual([])
  })

  it('of two hundred mistakes and forty fixes are found while somebody waits: the work does not grow with every choice', () => {
    const random = new Random(7)
    let asked = 0
    const effects = Array.from({ length: 40 }, (): Effect => ({
      corrects: Array.from({ length: 200 }, (_, i) => i).filter(() => random.next() < 0.1),
      harms: new Map(Array.from({ length: 300 }, (_, i) => [1000 + i, 0.5] as const).filter(() => random.next() < 0.05)),
    }))
    expect(coverOf(effects, () => ++asked > 0).length).toBeLessThanOrEqual(12)
    expect(asked).toBeLessThan(300_000)
  })
})

interface Labelled {
  id: number
  message: Message
  recipient: string
  /** What it is; nobody but the test knows. */
  label: 'wanted' | 'unwanted'
  judgement: 'wanted' | 'unwanted' | null
}

const PARTNERS = ['quayline', 'brassworks', 'sailcloth', 'harbourbank']

/** An office whose rules stop too much and too little. A part of the mail is marked, and of that mistakes more often than the rest. */
async function office(seed: number, size = 160): Promise<{ before: Policy, archive: Labelled[] }> {
  const random = new Random(seed)
  const pick = <T>(of: readonly T[]) => random.pick(of)
  const pad = () => Array.from({ length: 8 }, () => pick(['the', 'berth', 'crew', 'weather', 'of', 'tide', 'meeting', 'list', 'harbour'])).join(' ')
  const kinds: (() => Parameters<typeof letter>[0] & { label: Labelled['label'] })[] = [
    () => ({ from: `accounts@${pick(PARTNERS)}.example`, text: `Invoice with the handling fee. ${pad()}`, auth: 'pass', label: 'wanted' }),
    () => ({ from: `${pick(['ann', 'ben', 'cleo'])}@${pick(PARTNERS)}.example`, text: `Offer for the crew. ${pad()}`, auth: 'pass', label: 'wanted' }),
    () => ({ from: `x${random.between(0, 9998)}@fraud.test`, text: `Pay the handling fee today. ${pad()}`, auth: 'fail', label: 'unwanted' }),
    () => ({ from: `y${random.between(0, 9998)}@z${random.between(0, 98)}.test`, text: `Special offer, casino bonus inside. ${pad()}`, label: 'unwanted' }),
    () => ({ from: `deals@bulk${random.between(0, 2)}.example`, text: `Cheap rope for your boat, unsubscribe here. ${pad()}`, auth: 'pass', label: 'unwanted' }),
    () => ({ from: `w${random.between(0, 98)}@q${random.between(0, 98)}.test`, text: `Claim your lucky crypto payout today. ${pad()}`, auth: 'pass', label: 'unwanted' }),
    () => ({ from: `${pick(['ida', 'jon'])}@neighbour.example`, text: `About the parcel of rope. ${pad()}`, auth: 'pass', label: 'wanted' }),
  ]
  const rule = (id: string, phrases: string[]) => ({
    id, name: id, owner: 'organisation', state: 'enabled', when: { phrases }, except: [], claims: [{ stop: { to: 'spam' } }],
  })
  const before = policy({ rules: [rule('fees', ['handling fee', 'parcel']), rule('offers', ['offer'])] as never })
  const archive: Labelled[] = []
  for (let id = 1; id <= size; id++) {
    const { label, ...what } = pick(kinds)()
    const message = await letter({ ...what, subject: `Note ${id}` })
    const isWrong = isDelivered(decide(message, OSKAR, before, { now: NOW }).lane) !== (label === 'wanted')
    archive.push({ id, message, recipient: OSKAR, label, judgement: random.next() < (isWrong ? 0.4 : 0.25) ? label : null })
  }
  return { before, archive }
}

function applied(before: Policy, changes: readonly PolicyChange[]): Policy {
  const done = apply(before, completed(changes, { id: numbered(), now: NOW, by: null }))
  if ('problems' in done) throw new Error(JSON.stringify(done.problems))
  return done.policy
}

function errors(now: Policy, archive: readonly Labelled[]): { all: number, unmarked: number } {
  const compiled = compilePolicy(now)
  const wrong = archive.filter(c => isDelivered(decide(c.message, OSKAR, compiled, { now: NOW }).lane) !== (c.label === 'wanted'))
  return { all: wrong.length, unmarked: wrong.filter(c => !c.judgement).length }
}

/** Marked mistakes, by the rule that made them; what nothing stopped together. */
function groups(now: Policy, archive: readonly Labelled[]): Map<string, Labelled[]> {
  const out = new Map<string, Labelled[]>()
  for (const copy of archive) {
    const decision = decide(copy.message, OSKAR, now, { now: NOW })
    if (!copy.judgement || isDelivered(decision.lane) === (copy.judgement === 'wanted')) continue
    const key = decision.reasons.find(r => r.outcome.kind === 'decided')?.clause.id ?? 'missed'
    out.set(key, [...(out.get(key) ?? []), copy])
  }
  return out
}

type Take = (fixes: readonly Fix[], now: Policy) => readonly PolicyChange[] | null
const TAKES: Record<string, Take> = {
  'the first fix': ([first]) => first?.changes ?? null,
  'the cover': (fixes, now) => together(now, fixes.filter(f => f.inCover).map(f => f.changes)),
}

describe('an office that takes what is offered, group by group', () => {
  it.each(Object.keys(TAKES))('makes fewer mistakes by %s, also in the mail that nobody marked', async (name) => {
    for (const seed of [11, 12, 13]) {
      const { before, archive } = await office(seed, 80)
      let now = before
      for (const [, copies] of groups(before, archive)) {
        const should = copies[0]!.judgement === 'wanted' ? ('delivered' as const) : ('stopped' as const)
        const owners = [{ owner: 'organisation', name: 'all' }]
        const phrases = should === 'stopped' ? [{ text: 'crypto payout' }, { text: 'rope' }] : []
        const fixes = fixesFor(now, copies.map(c => ({ ...c, should })), { owners, id: numbered(), archive, now: NOW, phrases })
        const changes = TAKES[name]!(fixes, now)
        if (changes?.length) now = applied(now, changes)
      }
      const [was, is] = [errors(before, archive), errors(now, archive)]
      expect(is.all, `seed ${seed}`).toBeLessThan(was.all)
      expect(is.unmarked, `seed ${seed}`).toBeLessThanOrEqual(was.unmarked)
    }
  })

  it('is offered a cover that leaves as few mistakes as any choice of the fixes, applied and decided one by one', async () => {
    let best = 0
    let asked = 0
    for (let seed = 300; seed < 332; seed++) {
      const { before, archive } = await office(seed, 14)
      const marked = archive.map(c => ({ ...c, judgement: c.label }))
      const isWrong = (now: CompiledPolicy, c: Labelled) => isDelivered(decide(c.message, OSKAR, now, { now: NOW }).lane) !== (c.label === 'wanted')
      const was = compilePolicy(before)
      for (const [, copies] of groups(before, marked)) {
        const should = copies[0]!.label === 'wanted' ? ('delivered' as const) : ('stopped' as const)
        const owners = [{ owner: 'organisation', name: 'all' }]
        const fixes = fixesFor(before, copies.map(c => ({ ...c, should })), { owners, id: numbered(), archive: marked, now: NOW })
        const usable = fixes.filter(f => !f.opens)
        if (copies.length < 2 || usable.length < 2 || usable.length > 7) continue
        const group = new Set(copies.map(c => c.id))
        // Mistakes of the group that are left, and those that are made of what was right.
        const cost = (taken: readonly Fix[]): number => {
          const changes = together(before, taken.map(f => f.changes))
          if (!changes) return Infinity
          const now = compilePolicy(applied(before, changes))
          return marked.filter(c => (group.has(c.id) || !isWrong(was, c)) && isWrong(now, c)).length
        }
        let least = Infinity
        for (let bits = 0; bits < 2 ** usable.length; bits++) least = Math.min(least, cost(usable.filter((_, i) => bits & (1 << i))))
        const own = cost(fixes.filter(f => f.inCover))
        expect(own, `seed ${seed}`).toBeLessThanOrEqual(2 * least)
        asked++
        if (own === least) best++
      }
    }
    expect(asked).toBeGreaterThan(8)
    expect(best).toBeGreaterThanOrEqual(0.95 * asked)
  })

  it('is not offered first what corrects all and lets fraud in: the senders of the invoices are, together', async () => {
    const { before, archive } = await office(21)
    const wrong = archive.filter(c => c.label === 'wanted' && /handling fee/.test(c.message.content.segments.map(s => s.text).join(' ')))
    const marked = archive.map(c => ({ ...c, judgement: wrong.includes(c) ? ('wanted' as const) : c.label }))
    const owners = [{ owner: 'organisation', name: 'all' }]
    const fixes = fixesFor(before, wrong.map(c => ({ ...c, should: 'delivered' as const })), { owners, id: numbered(), archive: marked, now: NOW })
    expect(fixes[0]!.price.harm).toBe(0)
    const phraseOut = fixes.find(f => f.kind === 'phrase out')!
    expect(phraseOut.price.wrongs).toBeGreaterThan(5)
    expect(phraseOut.inCover).toBe(false)
    const after = applied(before, together(before, fixes.filter(f => f.inCover).map(f => f.changes))!)
    expect(wrong.filter(c => !isDelivered(decide(c.message, OSKAR, after, { now: NOW }).lane))).toEqual([])
    const delivered = (now: Policy) =>
      marked.filter(c => c.judgement === 'unwanted' && isDelivered(decide(c.message, OSKAR, now, { now: NOW }).lane))
    expect(delivered(after).length).toBe(delivered(before).length)
  })
})

describe('fixes as one change', () => {
  const rule = {
    id: 'r', name: 'R', owner: 'organisation', state: 'enabled', when: { phrases: ['alpha', 'beta', 'gamma'] }, except: [],
    claims: [{ stop: { to: 'spam' } }],
  }
  const before = policy({ rules: [rule] as never })
  const put = (over: object): PolicyChange => ({ type: 'put', kind: 'rule', value: { ...rule, ...over } as never })
  const exception = (value: string) => ({ sender: { kind: 'address', value } })

  it('have the exceptions of both, and lose the phrases that either takes out: neither undoes the other', () => {
    const changes = together(before, [
      [put({ except: [exception('a@x.test')] })],
      [put({ except: [exception('b@x.test')] })],
      [put({ when: { phrases: ['beta', 'gamma'] } })],
      [put({ when: { phrases: ['alpha', 'gamma'] } })],
    ])!
    const [made] = applied(before, changes).rules
    expect(made).toMatchObject({ when: { phrases: ['gamma'] }, except: [exception('a@x.test'), exception('b@x.test')] })
  })
  it('are none where two make something else of the same: which of them is meant nobody knows', () => {
    expect(together(before, [[put({ name: 'A' })], [put({ name: 'B' })]])).toBeNull()
  })
  it('add an entry once, and take one off once', () => {
    const entries = [{ kind: 'address' as const, value: 'a@x.test' }]
    const add: PolicyChange = { type: 'put', kind: 'entries', list: 'l', entries }
    const off: PolicyChange = { type: 'remove', kind: 'entries', list: 'k', entries }
    const more: PolicyChange = { ...add, entries: [...entries, { kind: 'address', value: 'b@x.test' }] }
    expect(together(before, [[add, off], [more, off]])).toEqual([add, off, { ...more, entries: [more.entries[1]] }])
  })
})
