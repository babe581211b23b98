import isSame from 'fast-deep-equal'
import { COLLECTIONS, merged, type PolicyChange } from '../change'
import { entryKey } from '../kinds'
import type { FixablePolicy } from './types'

type Put = Extract<PolicyChange, { type: 'put' }>

/**
 * The changes of several fixes, as one change after the other. Exceptions and phrases that two of them add to a rule, or take out of it,
 * are all added and taken out. Null where two of them make different things of the same.
 * @param policy on which each of them was made
 */
export function together(policy: FixablePolicy, fixes: readonly (readonly PolicyChange[])[]): PolicyChange[] | null {
  let now = policy
  const out: PolicyChange[] = []
  for (const fix of fixes) {
    const { changes, replaces } = merged(fix, policy as never, now as never)
    if (replaces.length) return null
    for (const change of changes.map(c => withoutDone(c, out))) {
      if (!change) continue
      out.push(change)
      if (change.type === 'put') now = withPut(now, change)
    }
  }
  return out
}

function withPut(policy: FixablePolicy, change: Put): FixablePolicy {
  if (change.kind === 'entries' || change.kind === 'threshold') return policy
  const name = COLLECTIONS[change.kind]
  const all = policy[name] as readonly { id: string }[]
  const value = change.value as { id: string }
  const there = all.some(o => o.id === value.id)
  return { ...policy, [name]: there ? all.map(o => (o.id === value.id ? value : o)) : [...all, value] }
}

// What an earlier one did already: entries are added and taken off once.
function withoutDone(change: PolicyChange, done: readonly PolicyChange[]): PolicyChange | null {
  if (done.some(d => isSame(d, change))) return null
  if (change.kind !== 'entries') return change
  const same = done.filter((d): d is typeof change => d.kind === 'entries' && d.type === change.type && d.list === change.list)
  const keys = new Set(same.flatMap(d => d.entries.map(entryKey)))
  const entries = change.entries.filter(e => !keys.has(entryKey(e)))
  return entries.length ? ({ ...change, entries } as PolicyChange) : null
}
