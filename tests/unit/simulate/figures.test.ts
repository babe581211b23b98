import { describe, expect, it } from 'vitest'
import type { Decision } from '#core'
import type { PolicyChange } from '#core/change'
import { asIfEnabled, broadness, isNarrow, lookupKeysOf, ImpactCounter, type CopyFacts, type Stopped } from '#core/simulate'
import { policy } from '../../support/build'

const stopped = (over: Partial<Stopped>): Stopped => ({ copies: 0, senders: 0, wanted: 0, unmarkedDomains: 0, delivered: 1000, ...over })

describe('what is broad: a rule for “the” goes into force without a word, or nobody can block anything in peace', () => {
  it.each<[string, Partial<Stopped>, boolean, boolean]>([
    ['one copy that is judged wanted', { copies: 1, senders: 1, wanted: 1 }, true, true],
    ['exactly 1 in 50', { copies: 20, senders: 9 }, false, false],
    ['more than 1 in 50', { copies: 21, senders: 9 }, false, true],
    ['more than 1 in 50 of one address', { copies: 500, senders: 1 }, true, false],
    ['more than 1 in 50, but nine copies', { copies: 9, senders: 9, delivered: 50 }, false, false],
    ['more than 1 in 50, but two senders', { copies: 400, senders: 2 }, false, false],
    ['unjudged mail of twenty domains', { copies: 20, senders: 20, unmarkedDomains: 20 }, true, false],
    ['unjudged mail of twenty-one domains', { copies: 20, senders: 21, unmarkedDomains: 21 }, true, true],
    ['nothing at all', { delivered: 0 }, false, false],
  ])('%s', (_, what, narrow, broad) => {
    expect(broadness(stopped(what), narrow) !== null).toBe(broad)
  })

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
const seen = { looked: 10, delivered: 10, inScope: 10, unknown: 0, complete: true }

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
    for (const copy of copies) counter.add(copy, to('inbox'), to('spam'))
    counter.add(known({ id: 8, judgement: 'wanted' }), to('spam'), to('spam'))
    expect(counter.report(seen).sample).toEqual([6, 5, 4, 3, 2, 7, 1, 8])
  })
  it('put first what would be let in that is marked unwanted', () => {
    const counter = new ImpactCounter(false)
    counter.add(known({ id: 1, lane: 'spam', judgement: 'wanted' }), to('spam'), to('inbox'))
    counter.add(known({ id: 2, lane: 'spam', earlier: 0 }), to('spam'), to('inbox'))
    counter.add(known({ id: 3, lane: 'spam', judgement: 'unwanted' }), to('spam'), to('inbox'))
    expect(counter.report(seen).sample).toEqual([3, 2, 1])
    expect(counter.report(seen).broad).toBeNull()
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
  const lookupKeys = (when: object) => {
    const rule = { id: 'r', name: 'r', owner: 'organisation', state: 'enabled', when, except: [], claims: [] }
    const after = { ...policy({}), rules: [rule] } as unknown as ReturnType<typeof policy>
    return lookupKeysOf(policy({}), after, [{ type: 'put', kind: 'rule', value: rule }] as unknown as PolicyChange[])
  }
  const from = (value: string, kind = 'address') => ({ sender: { kind, value } })
  it.each<[string, object, string[] | null]>([
    ['one sender', from('a@b.test'), ['a@b.test']],
    ['a sender and words', { all: [{ phrases: ['x'] }, from('a@b.test')] }, ['a@b.test']],
    ['either of two', { any: [from('a@b.test'), from('c@d.test')] }, ['a@b.test', 'c@d.test']],
    ['a sender or words', { any: [from('a@b.test'), { phrases: ['x'] }] }, null],
    ['everybody but one', { none: [from('a@b.test')] }, null],
    ['a pattern', from('*@b.test', 'pattern'), null],
    ['words alone', { phrases: ['x'] }, null],
    ['a list', { senderOn: 'l' }, null],
  ])('%s', (_, when, expected) => expect(lookupKeys(when)?.map(e => e.value) ?? null).toEqual(expected))
})
