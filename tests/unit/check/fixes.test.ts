import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import {
  checkPolicy,
  decide,
  entryKey,
  IndexedPolicy,
  fixOf,
  sameFinding,
  type CheckContext,
  type Condition,
  type Finding,
  type Message,
  type Policy,
} from '#core'
import { apply, completed, differences, type PolicyChange } from '#core/change'
import { pairOf, simulateCopy } from '#core/simulate'
import { arbitraryPolicy } from '../../support/arbitrary'
import { NOW, OURS, policy } from '../../support/build'
import { severalParsed } from '../../support/parsed'

const RECIPIENT = `oskar@${OURS}`
const CONTEXT: CheckContext = { now: NOW }
let made = 0
const making = { id: () => `made-${++made}`, now: NOW, by: 'somebody' }

function fixed(before: Policy, change: readonly PolicyChange[]): Policy {
  const applied = apply(before, completed(change, making))
  if ('problems' in applied) throw new Error(JSON.stringify(applied.problems))
  return applied.policy
}

function oneOfEach(p: Policy): Policy {
  return { ...p, lists: p.lists.map(l => ({ ...l, entries: [...new Map(l.entries.map(e => [entryKey(e), e])).values()] })) }
}

describe('the mend of a finding', () => {
  it('applied, takes the finding away, and moves no mail but what its rehearsal told', () => {
    const seen = new Set<string>()
    fc.assert(
      fc.property(arbitraryPolicy.map(oneOfEach), severalParsed(3), (before, messages) => {
        const base = IndexedPolicy.build(before)
        const where = (message: Message, policy: IndexedPolicy) => {
          const { lane, quarantine, place } = decide(message, RECIPIENT, policy, { now: NOW })
          return [lane, quarantine, place]
        }
        // One of each kind: a second one of the same is fixed in the same way.
        const found = new Map(checkPolicy(before, CONTEXT).map(f => [f.kind, f]))
        for (const finding of [...found.values()].slice(0, 4)) {
          const change = fixOf(before, finding, NOW)
          if (!change) continue
          seen.add(finding.kind)
          const after = fixed(before, change)
          expect(checkPolicy(after, CONTEXT).filter(f => sameFinding(f, finding))).toEqual([])
          const pair = pairOf(base, differences(before, after))
          const whole = IndexedPolicy.build(after)
          for (const message of messages)
            if (simulateCopy(message, RECIPIENT, pair, NOW) === null) expect(where(message, whole)).toEqual(where(message, base))
        }
      }),
      { seed: 11, numRuns: 150 },
    )
    // The generator meets the common ones; a fix that is never made would pass unseen.
    expect([...seen].sort()).toEqual(expect.arrayContaining(['can never match', 'entry covered by a wider one', 'phrase inside another']))
  })

  const rule = (when: Condition, over: object = {}) =>
    ({
      id: 'r',
      name: 'R',
      owner: 'organisation',
      state: 'enabled',
      when,
      except: [],
      claims: [{ stop: { to: 'spam' } }],
      ...over,
    }) as Policy['rules'][number]
  const list = (entries: { id: string, kind: 'address' | 'domain', value: string, expires?: string }[], over: object = {}) =>
    ({ id: 'l', name: 'L', owner: 'organisation', usualSide: 'block', enabled: true, entries, ...over }) as Policy['lists'][number]
  const found = (p: Policy, kind: Finding['kind'], context: Partial<CheckContext> = {}) =>
    checkPolicy(p, { ...CONTEXT, ...context }).find(f => f.kind === kind)!

  /** Each finding that only a person's policy would have, with what has to be gone after its fix. */
  const CASES: [string, Policy, Finding['kind'], Partial<CheckContext>?][] = [
    ['an expired rule goes off', policy({ rules: [rule({ phrases: ['fee'] }, { expires: '2026-01-01T00:00:00.000Z' })] }), 'expired'],
    [
      'a rule to be looked at again is put off, and goes on',
      policy({ rules: [rule({ phrases: ['fee'] }, { reviewOn: '2026-11-01T00:00:00.000Z' })] }),
      'due for review',
    ],
    [
      'what erases watches first',
      policy({ rules: [rule({ phrases: ['fee'] }, { claims: [{ stop: { to: 'erase', confirmed: true } }] })] }),
      'deletes permanently, never monitored',
    ],
    [
      'what nobody confirmed goes to the bin',
      policy({ rules: [rule({ phrases: ['fee'] }, { claims: [{ stop: { to: 'discard' } }] })] }),
      'not confirmed',
    ],
    ['the longer phrase goes', policy({ rules: [rule({ phrases: ['fee', 'handling fee'] })] }), 'phrase inside another'],
    ['of two rules that say the same one goes off', policy({ rules: [
      rule({ phrases: ['fee'] }, { claims: [{ effect: { kind: 'tag', value: 't' } }] }),
      rule({ phrases: ['fee'] }, { id: 'r2', name: 'R2', claims: [{ effect: { kind: 'tag', value: 't' } }] }),
    ] }), 'duplicate rule'],
    ['a rule that an earlier one covers otherwise comes before it', policy({ rules: [
      rule({ phrases: ['fee'] }),
      rule({ all: [{ phrases: ['fee'] }, { phrases: ['gale'] }] }, { id: 'r2', name: 'R2', claims: [{ stop: { to: 'bin' } }] }),
    ] }), 'covered by an earlier rule'],
    ['a rule that is always ended comes before what ends', policy({ rules: [
      rule({ phrases: ['fee'] }, { end: 'owner', claims: [{ effect: { kind: 'tag', value: 't' } }] }),
      rule({ phrases: ['fee'] }, { id: 'r2', name: 'R2' }),
    ] }), 'never reached'],
    ['an exception that spares nobody goes', policy({
      lists: [list([{ id: 'e', kind: 'domain', value: 'x.test' }], { enabled: false })],
      rules: [rule({ phrases: ['fee'] }, { except: [{ senderOn: 'l' }, { phrases: ['gale'] }] })],
    }), 'uses a disabled list'],
    [
      'an expired entry goes',
      policy({ lists: [list([{ id: 'e', kind: 'domain', value: 'x.test', expires: '2026-01-01T00:00:00.000Z' }])] }),
      'expired',
    ],
    ['an exception’s entry stays for good', policy({
      lists: [list([{ id: 'e', kind: 'domain', value: 'x.test', expires: '2026-11-26T00:00:00.000Z' }])],
      rules: [rule({ phrases: ['fee'] }, { except: [{ senderOn: 'l' }] })],
    }), 'exception expires soon'],
    [
      'a phrase that stands in much wanted mail goes',
      policy({ rules: [rule({ phrases: ['fee', 'gale'] })] }),
      'phrase matches wanted mail',
      { wantedHits: { byPhrase: new Map([['r fee', 40]]), wanted: new Map([['organisation', 100]]) } },
    ],
    [
      'what has hit nothing for long goes off',
      policy({ rules: [rule({ phrases: ['fee'] })] }),
      'unused',
      { seen: new Map([['r', { last: null, since: '2026-01-01T00:00:00.000Z' }]]) },
    ],
  ]
  it.each(CASES)('%s', (_, before, kind, context = {}) => {
    const finding = found(before, kind, context)
    expect(finding?.kind).toBe(kind)
    const change = fixOf(before, finding, NOW)
    expect(change).not.toBeNull()
    const after = fixed(before, change!)
    expect(checkPolicy(after, { ...CONTEXT, ...context }).filter(f => sameFinding(f, finding))).toEqual([])
  })

  it('leaves what a person has to say to a person: which networks are meant, and what stands under “none”', () => {
    const wide = policy({ lists: [{ ...list([]), entries: [{ id: 'e', kind: 'network', value: '203.0.0.0/8' }] }] })
    expect(fixOf(wide, found(wide, 'wide network'), NOW)).toBeNull()
    const under = policy(
      { lists: [list([], { enabled: false })], rules: [rule({ all: [{ phrases: ['fee'] }, { none: [{ senderOn: 'l' }] }] })] },
    )
    expect(fixOf(under, found(under, 'uses a disabled list'), NOW)).toBeNull()
  })

  it('of an exception with more in it takes out only what spares nobody', () => {
    const before = policy({
      lists: [list([{ id: 'e', kind: 'domain', value: 'x.test' }], { enabled: false })],
      rules: [rule({ phrases: ['fee'] }, { except: [{ any: [{ senderOn: 'l' }, { phrases: ['gale'] }] }] })],
    })
    const [put] = fixOf(before, found(before, 'uses a disabled list'), NOW) as unknown as [{ value: { except: Condition[] } }]
    expect(put.value.except).toEqual([{ any: [{ phrases: ['gale'] }] }])
  })
})
