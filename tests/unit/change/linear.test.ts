// Changes come by the thousand, by one request of anybody: who applies them in time that grows with their number times the policy
// keeps everybody's mail waiting.
import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import type { Policy, Rule } from '#core'
import { apply, completed, differences, IndexedClauses, inverse, type PolicyChange } from '#core/change'
import { NOW, policy } from '../../support/build'
import { drawnChanges } from '../../support/changes'
import { plainlyApplied } from '../../support/plain-changes'
import { mustBeChangeable, mustBeProposable } from '../../../server/access/change-access'
import { COMMAND_LINE } from '../../../server/access/roles'

const SIZE = 400

const rule = (n: number, owner: Rule['owner'] = 'organisation'): Rule => ({
  id: `r${n}`,
  name: `Rule ${n}`,
  owner,
  state: 'enabled',
  when: { senderOn: `l${n % SIZE}` },
  except: [],
  claims: [{ stop: { to: 'spam' } }],
})
const list = (n: number) => ({
  id: `l${n}`,
  name: `List ${n}`,
  owner: 'organisation' as const,
  usualSide: 'block' as const,
  enabled: true,
  entries: [{ id: `e${n}`, kind: 'address' as const, value: `a${n}@x.test` }],
})
const assignment = (n: number) => ({
  id: `u${n}`,
  list: `l${n}`,
  owner: 'organisation' as const,
  side: 'block' as const,
  state: 'enabled' as const,
  stop: { to: 'erase' as const, confirmed: true as const },
})
const numbers = Array.from({ length: SIZE }, (_, n) => n)
const large: Policy = policy({ rules: numbers.map(n => rule(n)), lists: numbers.map(list), assignments: numbers.map(assignment) })

/** The policy, which counts how often one of its things is looked at. */
function counting(of: Policy): { policy: Policy, looks: () => number } {
  let looks = 0
  const counted = <T extends object>(things: T[]) =>
    new Proxy(things, {
      get(target, key, receiver) {
        if (typeof key === 'string' && /^\d+$/.test(key)) looks++
        return Reflect.get(target, key, receiver) as unknown
      },
    })
  const { rules, lists, assignments, phraseSets, quarantines } = of
  return {
    policy: {
      ...of,
      rules: counted(rules),
      lists: counted(lists),
      assignments: counted(assignments),
      phraseSets: counted(phraseSets),
      quarantines: counted(quarantines),
    },
    looks: () => looks,
  }
}

/** Every kind of change that is made of many things at once, so many of it. */
const KINDS: Record<string, (n: number) => PolicyChange> = {
  'rules changed': n => ({ type: 'put', kind: 'rule', value: { ...rule(n), name: `Other ${n}` } }),
  'rules made': n => ({ type: 'put', kind: 'rule', value: rule(SIZE + n) }),
  'rules removed': n => ({ type: 'remove', kind: 'rule', id: `r${n}` }),
  'uses changed': n => ({ type: 'put', kind: 'assignment', value: { ...assignment(n), stop: { to: 'bin' } } }),
  'lists removed': n => ({ type: 'remove', kind: 'list', id: `l${n}` }),
  'entries added': n => ({ type: 'put', kind: 'entries', list: `l${n}`, entries: [{ kind: 'address', value: `new${n}@x.test` }] }),
  'entries of one list': n => ({ type: 'put', kind: 'entries', list: 'l0', entries: [{ kind: 'address', value: `new${n}@x.test` }] }),
  'entries taken out': n => ({ type: 'remove', kind: 'entries', list: `l${n}`, entries: [{ kind: 'address', value: `a${n}@x.test` }] }),
}

describe('many changes at once', () => {
  it.each(Object.keys(KINDS))('%s: what is looked at grows with the policy and with the changes, not with both', (kind) => {
    let id = 0
    const looksFor = (many: number) => {
      const { policy: counted, looks } = counting(large)
      const changes = completed(numbers.slice(0, many).map(KINDS[kind]!), { id: () => `new${id++}`, now: NOW, by: null })
      const got = apply(counted, changes)
      if ('policy' in got) {
        differences(counted, got.policy)
        inverse(counted, got.policy)
      }
      mustBeChangeable(COMMAND_LINE, counted, changes)
      mustBeProposable(COMMAND_LINE, counted, changes)
      return looks()
    }
    expect(looksFor(SIZE) - looksFor(1)).toBeLessThan(30 * SIZE)
  })

  it('come to what going through the whole policy for each of them comes to', () => {
    let lapsed = 0
    fc.assert(
      fc.property(fc.array(drawnChanges, { minLength: 1, maxLength: 3 }), (drawn) => {
        const { before } = drawn[0]!
        const changes = completed(drawn.flatMap(d => d.changes), { id: () => `new${lapsed}`, now: NOW, by: 'Ines' })
        const clauses = new IndexedClauses(before)
        for (const change of changes) clauses.apply(change)
        const after = clauses.clauses()
        expect(after).toEqual(plainlyApplied(before, changes))
        if (JSON.stringify(after).split('confirmed').length < JSON.stringify(before).split('confirmed').length) lapsed++
      }),
      { seed: 17, numRuns: 500 },
    )
    expect(lapsed).toBeGreaterThan(5)
  })

  it('a widening takes the confirmation from every clause that used the list, and from no other', () => {
    const got = apply(large, completed([KINDS['entries added']!(3)], { id: () => 'new', now: NOW, by: null }))
    const confirmed = 'policy' in got ? got.policy.assignments.filter(b => b.stop?.confirmed).map(b => b.id) : []
    expect(confirmed).toEqual(numbers.filter(n => n !== 3).map(n => `u${n}`))
  })
})
