import { touches, type Clauses, type PolicyChange } from '../change'
import { entryKey } from '../kinds'
import type { Entry, Policy } from '../policy'
import type { Differing } from '../lookup'

/** What differs between two policies, for each of the two. */
export interface BothSides {
  before: Differing
  after: Differing
}

/**
 * What of two policies says something else in the one than in the other.
 * @param net the differences between them (see `differences`), with all that is known of their entries
 */
export function differingIn(before: Clauses, after: Clauses, net: readonly PolicyChange[]): BothSides {
  const rules = new Set<string>()
  const assignments = new Set<string>()
  for (const policy of [before, after])
    for (const change of net)
      for (const { kind, id } of touches(policy, change)) {
        if (kind === 'rule') rules.add(id)
        if (kind === 'assignment') assignments.add(id)
      }
  // A list's uses go with it, without a word of their own.
  for (const { id, list } of before.assignments) if (after.lists.every(l => l.id !== list)) assignments.add(id)
  const entries = new Map<string, { gone: Set<string>, put: Entry[] }>()
  for (const change of net) {
    if (!('entries' in change)) continue
    const own = entries.get(change.list) ?? { gone: new Set<string>(), put: [] }
    entries.set(change.list, own)
    for (const entry of change.entries) own.gone.add(entryKey(entry))
    if (change.type === 'put') own.put.push(...(change.entries as Entry[]))
  }
  return { before: { rules, assignments, entries: new Map() }, after: { rules, assignments, entries } }
}

/** Owners of the clauses that differ: only copies over which they stand can end elsewhere. */
export function ownersOf({ rules, assignments }: Differing, ...policies: readonly Pick<Policy, 'rules' | 'assignments'>[]): Set<string> {
  return new Set(
    policies.flatMap(p => [...p.rules.filter(r => rules.has(r.id)), ...p.assignments.filter(b => assignments.has(b.id))].map(c => c.owner)),
  )
}
