import fc from 'fast-check'
import type { List, Policy } from '#core'
import type { PolicyChange } from '#core/change'
import { arbitraryPolicy } from './arbitrary'
import { NOW } from './build'

/** As the store has it: an entry of a kind and value once on a list, and the same use of a list once. */
export function once(policy: Policy): Policy {
  const unique = (l: List) => ({
    ...l,
    entries: [
      ...new Map(
        l.entries.map(e => [
          `${e.kind} ${e.value}`,
          {
            ...e,
            addedAt: NOW,
            addedBy: 'Oskar',
            id: Buffer.from(`${l.id} ${e.kind} ${e.value}`).toString('base64url').slice(0, 80),
          },
        ]),
      ).values(),
    ],
  })
  const assignment = (b: Policy['assignments'][number]) => `${b.list} ${b.owner} ${b.side} ${b.direction ?? 'inbound'} ${b.state}`
  const assignments = [...new Map(policy.assignments.map(b => [assignment(b), b])).values()]
  return { ...policy, assignments, lists: policy.lists.map(unique) }
}

/** Changes to one policy, taken from what another has under the same ids. */
export const drawnChanges: fc.Arbitrary<{ before: Policy, changes: PolicyChange[] }> = fc
  .tuple(
    arbitraryPolicy.map(once),
    arbitraryPolicy.map(once),
    fc.array(fc.tuple(fc.nat(9), fc.nat(99), fc.nat(99)), { minLength: 1, maxLength: 4 }),
  )
  .map(([before, other, picks]) => ({
    before,
    changes: picks.flatMap(([what, a, b]) => pick(before, other, [what, a, b])),
  }))

function pick(before: Policy, other: Policy, [what, a, b]: readonly [number, number, number]): PolicyChange[] {
  const of = <T>(things: readonly T[], n: number): T[] => (things.length ? [things[n % things.length]!] : [])
  const entriesOf = (policy: Policy) => of(policy.lists, a).flatMap(l => l.entries.slice(0, 1 + (b % 3)))
  switch (what) {
    case 0:
      return of(other.rules, a).map(rule => ({
        type: 'put', kind: 'rule',
        value: { ...rule, name: b % 9 ? rule.name : `other ${b}` },
      }))
    case 1:
      return of(other.assignments, a).map(assignment => ({ type: 'put', kind: 'assignment', value: assignment }))
    case 2:
      return of(other.lists, a).map(({ entries, ...list }) => ({
        type: 'put', kind: 'list',
        value: b % 2 ? list : { ...list, entries },
      }))
    case 3:
      return of(other.phraseSets, a).map(set => ({ type: 'put', kind: 'phraseSet', value: set }))
    case 4: {
      const entries = entriesOf(other).map(e => (b % 2 ? e : { kind: e.kind, value: e.value, note: 'n' }))
      return entries.length ? [{ type: 'put', kind: 'entries', list: of(before.lists, a)[0]!.id, entries }] : []
    }
    case 5: {
      const entries = entriesOf(before).map(({ kind, value }) => ({ kind, value }))
      return entries.length ? [{ type: 'remove', kind: 'entries', list: of(before.lists, a)[0]!.id, entries }] : []
    }
    case 6:
      return of(before.rules, a).map(r => ({ type: 'remove', kind: 'rule', id: r.id }))
    case 7:
      return of(before.assignments, a).map(r => ({ type: 'remove', kind: 'assignment', id: r.id }))
    case 8:
      return of(before.rules, a).map(({ owner }) => {
        const ids = before.rules.filter(r => r.owner === owner).map(r => r.id)
        return { type: 'order', kind: 'rule', owner: owner, ids: [...ids.slice(b % ids.length), ...ids.slice(0, b % ids.length)] }
      })
    default:
      return [
        of(before.lists, a).map(l => ({ type: 'remove' as const, kind: 'list' as const, id: l.id })),
        [{ type: 'put' as const, kind: 'threshold' as const, value: { id: 'sure' as const, at: 9 + b, stop: { to: 'spam' as const } } }],
        [{ type: 'put' as const, kind: 'quarantine' as const, value: { id: `q${a}`, name: `Q ${a}` } }],
        of(before.phraseSets, a).map(s => ({ type: 'remove' as const, kind: 'phraseSet' as const, id: s.id })),
      ][b % 4]!
  }
}
