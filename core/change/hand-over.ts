import type { Owner } from '../policy'
import type { Clauses, PolicyChange } from './types'

/**
 * The changes by which everything that is somebody's own becomes somebody else's: lists with their uses, phrase sets, and rules,
 * which come after the successor's own. What would bear a name that the successor has already says from whom it came.
 * @param policy with all entries of the lists that go over
 * @param from whose name is told beside a name that is taken
 */
export function handOver(policy: Clauses, from: { owner: Owner, name: string }, to: Owner): PolicyChange[] {
  const own = <T extends { owner: Owner }>(things: readonly T[]) => things.filter(t => t.owner === from.owner)
  const renamed = <T extends { name: string, owner: Owner }>(thing: T, all: readonly T[]): T => {
    const taken = new Set(all.filter(t => t.owner === to).map(t => t.name.toLowerCase()))
    let name = thing.name
    for (let n = 1; taken.has(name.toLowerCase()); n++) name = `${thing.name} (from ${from.name}${n > 1 ? ` ${n}` : ''})`
    return { ...thing, name, owner: to }
  }
  const [lists, assignments, sets, rules] = [own(policy.lists), own(policy.assignments), own(policy.phraseSets), own(policy.rules)]
  const going = new Set(lists.map(l => l.id))
  const handed = rules.map(r => renamed(r, policy.rules))
  if (!lists.length && !assignments.length && !sets.length && !rules.length) return []
  return [
    ...rules.map(r => ({ type: 'remove' as const, kind: 'rule' as const, id: r.id })),
    // A list takes its uses along.
    ...assignments.filter(u => !going.has(u.list)).map(u => ({ type: 'remove' as const, kind: 'assignment' as const, id: u.id })),
    ...lists.map(l => ({ type: 'remove' as const, kind: 'list' as const, id: l.id })),
    ...sets.map(s => ({ type: 'remove' as const, kind: 'phraseSet' as const, id: s.id })),
    ...lists.map(l => ({ type: 'put' as const, kind: 'list' as const, value: renamed(l, policy.lists) })),
    ...sets.map(s => ({ type: 'put' as const, kind: 'phraseSet' as const, value: renamed(s, policy.phraseSets) })),
    ...assignments.map(u => ({ type: 'put' as const, kind: 'assignment' as const, value: { ...u, owner: to } })),
    ...handed.map(rule => ({ type: 'put' as const, kind: 'rule' as const, value: rule })),
    ...(rules.length
      ? [
          {
            type: 'order' as const,
            kind: 'rule' as const,
            owner: to,
            ids: [...policy.rules.filter(r => r.owner === to), ...handed].map(r => r.id),
          },
        ]
      : []),
  ]
}
