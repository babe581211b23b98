import { describe, expect, it } from 'vitest'
import type { Decision, PhraseSet, Rule } from '#core'
import type { PolicyChange } from '#core/change'
import { asIfEnabled, broadness, isNarrow, isWhole, lookupKeysOf, ImpactCounter, type Affected, type CopyFacts, type Impact, type LaneChange, type Stopped } from '#core/simulate'
import { policy } from '../../support/build'

const NONE: Affected = { copies: 0, senders: 0, marked: 0, of: 1000 }
const stopped = (over: Partial<Stopped>): Stopped => ({ ...NONE, unmarkedDomains: 0, ...over })

describe('what is broad: a rule for “the” goes into force without a word, or nobody can block anything in peace', () => {
  it.each<[string, Partial<Stopped>, boolean, boolean]>([
    ['one copy that is judged wanted', { copies: 1, senders: 1, marked: 1 }, true, true],
    ['exactly 1 in 50', { copies: 20, senders: 9 }, false, false],
    ['more than 1 in 50', { copies: 21, senders: 9 }, false, true],
    ['more than 1 in 50 of one address', { copies: 500, senders: 1 }, true, false],
    ['more than 1 in 50, but nine copies', { copies: 9, senders: 9, of: 50 }, false, false],
    ['more than 1 in 50, but two senders', { copies: 400, senders: 2 }, false, false],
    ['unjudged mail of twenty domains', { copies: 20, senders: 20, unmarkedDomains: 20 }, true, false],
    ['unjudged mail of twenty-one domains', { copies: 20, senders: 21, unmarkedDomains: 21 }, true, true],
    ['nothing at all', { of: 0 }, false, false],
  ])('%s', (_, what, narrow, broad) => {
    expect(broadness(stopped(what), NONE, narrow) !== null).toBe(broad)
  })

  it.each<[string, Partial<Affected>, boolean, RegExp | null]>([
    ['one copy that is marked unwanted', { copies: 1, senders: 1, marked: 1 }, true, /^It would let in 1 stopped message, marked unwanted\.$/],
    ['some of them marked unwanted', { copies: 518, senders: 40, marked: 315 }, false, /let in 518 stopped messages, 315 of them marked unwanted/],
    ['exactly 1 in 50 of the stopped', { copies: 20, senders: 9 }, false, null],
    ['more than 1 in 50 of the stopped', { copies: 21, senders: 9 }, false, /let in 21 of 1,000 stopped messages, from 9 senders/],
    ['more than 1 in 50 of one address', { copies: 500, senders: 1 }, true, null],
    ['nine copies', { copies: 9, senders: 9, of: 50 }, false, null],
    ['two senders', { copies: 400, senders: 2 }, false, null],
  ])('lets in: %s', (_, letIn, narrow, words) => {
    const why = broadness(stopped({}), { ...NONE, ...letIn }, narrow)
    if (words) expect(why).toMatch(words)
    else expect(why).toBeNull()
  })

  it('says both where it does both', () =>
    expect(broadness(stopped({ copies: 1, marked: 1 }), { ...NONE, copies: 1, marked: 1 }, false)).toMatch(/stop 1 .* let in 1 /))

  const entries = (...kinds: string[]): PolicyChange[] =>
    [{ type: 'put', kind: 'entries', list: 'l', entries: kinds.map(kind => ({ kind, value: 'x' })) }] as PolicyChange[]
  const rule = (when: object): PolicyChange[] =>
    [
      { type: 'put', kind: 'rule', value: { name: 'r', owner: 'organisation', state: 'enabled', when, except: [], claims: [] } },
    ] as unknown as PolicyChange[]
  const address = { sender: { kind: 'address', value: 'a@b.test' } }
  it.each([
    ['addresses', entries('address', 'mailingList'), true],
    ['a domain among them', entries('address', 'domain'), false],
    ['words', rule({ phrases: ['the'] }), false],
    ['words of one address', rule({ all: [{ phrases: ['the'] }, address] }), true],
    ['words or one address', rule({ any: [{ phrases: ['the'] }, address] }), false],
    ['everybody but one address', rule({ none: [address] }), false],
    ['an address beside a rule of words', [...entries('address'), ...rule({ phrases: ['the'] })], false],
    ['no entries at all', [{ type: 'remove', kind: 'rule', id: 'r' }] as PolicyChange[], false],
  ])('is narrow or not: %s', (_, net, narrow) => expect(isNarrow(net)).toBe(narrow))
})

const known = (over: Partial<CopyFacts>): CopyFacts => ({
  id: 1,
  at: 0,
  lane: 'inbox',
  quarantine: null,
  byHand: false,
  recipient: 'oskar',
  sender: 'a@b.test',
  senderDomain: 'b.test',
  judgement: null,
  implied: false,
  opened: false,
  verified: false,
  earlier: 1,
  earlierStopped: 0,
  ...over,
})
const to = (lane: Decision['lane'], quarantine: string | null = null) => ({ lane, quarantine }) as Decision
const seen = { looked: 10, inScope: 10, delivered: 10, stopped: 10, unknown: 0 }

describe('figures of a rehearsal', () => {
  it('put first what somebody would miss most: judged wanted, wanted by a move, opened, often seen, the rest, the unwanted', () => {
    const counter = new ImpactCounter(false)
    const copies = [
      known({ id: 1, judgement: 'unwanted' }),
      known({ id: 2 }),
      known({ id: 3, earlier: 9 }),
      known({ id: 4, opened: true }),
      known({ id: 5, judgement: 'wanted', implied: true }),
      known({ id: 6, judgement: 'wanted' }),
      known({ id: 7, earlier: 9, earlierStopped: 2 }),
    ]
    for (const copy of copies) counter.add({ ...copy, at: -copy.id }, to('inbox'), to('spam'))
    counter.add(known({ id: 8, judgement: 'wanted' }), to('spam'), to('spam'))
    expect(counter.report(seen).sample).toEqual([6, 5, 4, 3, 2, 7, 1, 8])
  })
  it('put first what would be let in that is marked unwanted', () => {
    const counter = new ImpactCounter(false)
    counter.add(known({ id: 1, lane: 'spam', judgement: 'wanted' }), to('spam'), to('inbox'))
    counter.add(known({ id: 2, lane: 'spam', earlier: 0 }), to('spam'), to('inbox'))
    counter.add(known({ id: 3, lane: 'spam', judgement: 'unwanted' }), to('spam'), to('inbox'))
    expect(counter.report(seen).sample).toEqual([3, 2, 1])
    expect(counter.report(seen).broad).toMatch(/let in 3 stopped messages, 1 of them marked unwanted/)
  })
  it('count what lies here by where it lies, and leave what a hand put there', () => {
    const counter = new ImpactCounter(false)
    counter.add(known({ id: 1 }), to('inbox'), to('refused'))
    counter.add(known({ id: 2, lane: 'lowPriority' }), to('inbox'), to('quarantine', 'general'))
    counter.add(known({ id: 3, byHand: true }), to('inbox'), to('spam'))
    counter.add(known({ id: 4, lane: 'spam' }), to('inbox'), to('spam'))
    counter.add(known({ id: 5, lane: 'refused' }), to('inbox'), to('spam'))
    const { here, byHand, moves, copies } = counter.report(seen)
    expect(here).toEqual({ inbox: 1, lowPriority: 1, spam: 0, quarantine: 0, bin: 0 })
    expect({ byHand, moves, copies }).toEqual({ byHand: 1, moves: 5, copies: 5 })
  })
  it('hold one quarantine and another apart', () => {
    const counter = new ImpactCounter(false)
    counter.add(known({ lane: 'quarantine', quarantine: 'general' }), to('quarantine', 'general'), to('quarantine', 'security'))
    expect(counter.report(seen)).toMatchObject({ moves: 1, here: { quarantine: 1 } })
  })
})

describe('figures of one impact that two threads count', () => {
  it('are those of one that counts all of it, in whatever order: nobody is shown the better half', () => {
    const lanes = ['inbox', 'lowPriority', 'spam', 'quarantine', 'bin'] as const
    const copies = Array.from({ length: 400 }, (_, i) => known({
      id: i,
      at: (i * 37) % 90,
      lane: lanes[i % 5]!,
      judgement: i % 7 ? null : i % 2 ? 'wanted' : 'unwanted',
      implied: i % 3 === 0,
      opened: i % 4 === 0,
      verified: i % 5 === 0,
      sender: `s${i % 23}@b.test`,
      senderDomain: `d${i % 31}.test`,
      recipient: `r${i % 11}`,
      byHand: i % 13 === 0,
    }))
    const add = (counter: ImpactCounter, copy: CopyFacts) => counter.add(copy, to(copy.lane), to(copy.id % 2 ? 'inbox' : 'spam'))
    const [whole, ...parts] = [new ImpactCounter(false), new ImpactCounter(false), new ImpactCounter(false)]
    for (const copy of copies) add(whole, copy)
    for (const copy of [...copies].reverse()) add(parts[copy.id % 3 ? 0 : 1]!, copy)
    const both = new ImpactCounter(false)
    // As it goes from thread to thread.
    for (const part of parts) both.merge(structuredClone(part.so))
    const byWay = (a: LaneChange, b: LaneChange) => (a.from + a.to < b.from + b.to ? -1 : 1)
    const sorted = ({ lanes: ways, ...rest }: Impact) => ({ ...rest, lanes: [...ways].sort(byWay) })
    expect(sorted(both.report(seen))).toEqual(sorted(whole.report(seen)))
  })
})

describe('what only watches', () => {
  const p = policy({})
  const monitoring = {
    type: 'put', kind: 'rule',
    value: { id: 'r', name: 'r', owner: 'organisation', state: 'monitor', when: { every: true }, except: [], claims: [] },
  }
  it('is rehearsed as if it acted, but what acts and is switched off stays so', () => {
    const [made] = asIfEnabled(p, [monitoring] as unknown as PolicyChange[])
    expect(made).toMatchObject({ value: { state: 'enabled' } })
    const enabled = { ...p, rules: [{ ...monitoring.value, state: 'enabled' }] } as unknown as typeof p
    expect(asIfEnabled(enabled, [monitoring] as unknown as PolicyChange[])[0]).toMatchObject({ value: { state: 'monitor' } })
  })
})

describe('by what an archive is asked: mail that a change touches would be passed over', () => {
  const rule = (when: object, more: object = {}) =>
    ({ id: 'r', name: 'r', owner: 'organisation', state: 'enabled', when, except: [], claims: [], ...more }) as unknown as Rule
  /** What is asked for when a rule is made, or one of another. */
  const keys = (now: Rule, before?: Rule, sets: readonly PhraseSet[][] = [[], []]) => {
    const [was, is] = [before ? [before] : [], [now]].map((rules, i) => ({ ...policy({}), rules, phraseSets: sets[i]! }))
    const found = lookupKeysOf({ before: was!, after: is!, net: [{ type: 'put', kind: 'rule', value: now }] as unknown as PolicyChange[] })
    const texts = found?.texts.map(t => [...t.words, ...t.beginnings.map(w => `${w}…`)].join(' '))
    return found && [...new Set([...found.senders.map(e => e.value), ...texts!])]
  }
  const from = (value: string, kind = 'address') => ({ sender: { kind, value } })
  it.each<[string, object, string[] | null]>([
    ['one sender', from('a@b.test'), ['a@b.test']],
    ['a sender and words', { all: [{ phrases: ['x'] }, from('a@b.test')] }, ['a@b.test']],
    ['either of two', { any: [from('a@b.test'), from('c@d.test')] }, ['a@b.test', 'c@d.test']],
    ['a sender or words', { any: [from('a@b.test'), { phrases: ['x y'] }] }, ['a@b.test', 'x y']],
    ['everybody but one', { none: [from('a@b.test')] }, null],
    ['a pattern', from('*@b.test', 'pattern'), null],
    ['words alone', { phrases: ['Release  fee', 'quay'] }, ['release fee', 'quay']],
    ['words that have a company', { phrases: [{ text: 'fee', near: { phrases: ['release'] } }] }, ['fee']],
    ['parts of words', { phrases: ['the fee of'], whole: false }, ['fee']],
    ['part of one word', { phrases: ['fee'], whole: false }, null],
    ['words behind obfuscated spelling', { phrases: ['fee'], view: 'obfuscated' }, null],
    ['words of the subject', { phrases: ['fee'], where: ['subject'] }, ['fee']],
    ['words where no index knows them', { phrases: ['fee'], where: ['subject', 'header'] }, null],
    ['rarer words first', { all: [{ phrases: ['a'] }, { phrases: ['a rare phrase'] }] }, ['a rare phrase']],
    ['no phrase at all', { phrases: [] }, []],
    ['a list', { senderOn: 'l' }, null],
  ])('%s', (_, when, expected) => expect(keys(rule(when))).toEqual(expected))

  const two = { phrases: ['release fee', 'quay'] }
  it.each<[string, Rule, Rule, string[] | null]>([
    ['a phrase less', rule(two), rule({ phrases: ['quay'] }), ['release fee']],
    ['a phrase more', rule(two), rule({ phrases: [...two.phrases, 'berth'] }), ['berth']],
    [
      'a phrase less, of which so many are needed',
      rule({ ...two, minimum: 2 }),
      rule({ phrases: ['quay'], minimum: 2 }),
      ['release fee', 'quay'],
    ],
    ['another place', rule(two), rule({ ...two, where: ['subject'] }), ['release fee', 'quay']],
    ['an exception more', rule(two), rule(two, { except: [from('a@b.test')] }), ['a@b.test']],
    ['an exception that may hold of anything', rule(two), rule(two, { except: [{ every: true }] }), ['release fee', 'quay']],
    ['another state', rule(two), rule(two, { state: 'disabled' }), ['release fee', 'quay']],
    ['one member less', rule({ any: [two, from('a@b.test')] }), rule(two), ['release fee', 'quay', 'a@b.test']],
    [
      'one phrase less in a member',
      rule({ all: [two, from('a@b.test')] }),
      rule({ all: [{ phrases: ['quay'] }, from('a@b.test')] }),
      ['release fee'],
    ],
  ])('of a rule that changes: %s', (_, before, after, expected) =>
    expect([...(keys(after, before) ?? ['all'])].sort()).toEqual([...expected!].sort()))

  it('of a set that changes: the phrases that differ', () => {
    const set = (...phrases: string[]): PhraseSet[] => [{ id: 's', name: 's', owner: 'organisation', phrases } as PhraseSet]
    const asking = rule({ set: 's' })
    const [before, after] = [set('fee', 'quay'), set('quay', 'berth')].map(phraseSets => ({ ...policy({}), rules: [asking], phraseSets }))
    const net = [{ type: 'put', kind: 'phraseSet', value: after!.phraseSets[0] }] as unknown as PolicyChange[]
    const found = lookupKeysOf({ before: before!, after: after!, net })
    expect(found?.texts.flatMap(t => t.words)).toEqual(['fee', 'berth'])
  })

  it('of a list that is put to use: its entries, where they are known and few', () => {
    const before = policy({ lists: [{ id: 'l', name: 'l', owner: 'organisation', usualSide: 'block', enabled: true, entries: [] }] })
    const assignment = { id: 'u', list: 'l', owner: 'organisation', side: 'block', state: 'enabled', stop: { to: 'spam' } }
    const net = [{ type: 'put', kind: 'assignment', value: assignment }] as unknown as PolicyChange[]
    const after = { ...before, assignments: [assignment] } as unknown as typeof before
    expect(lookupKeysOf({ before, after, net, entriesOf: () => [{ kind: 'address', value: 'a@b.test' }] })?.senders).toHaveLength(1)
    expect(lookupKeysOf({ before, after, net, entriesOf: () => null })).toBeNull()
    expect(lookupKeysOf({ before, after, net })).toBeNull()
  })
})

describe('figures that say how far they reach', () => {
  it('are whole only where all in scope was looked at', () =>
    expect([isWhole({ looked: 0, inScope: 0 }), isWhole({ looked: 49, inScope: 50 }), isWhole({ looked: 50, inScope: 50 })])
      .toEqual([true, false, true]))
})
