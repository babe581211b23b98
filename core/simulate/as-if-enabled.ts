import type { Clauses, PolicyChange } from '../change'

/**
 * The same changes as if what they put were acting: what is watched, or made switched off, would do nothing, and it is asked
 * what it would do. What acts now and is switched off stays so.
 */
export function asIfEnabled(policy: Pick<Clauses, 'rules' | 'assignments'>, changes: readonly PolicyChange[]): PolicyChange[] {
  return changes.map((change) => {
    if (change.type !== 'put') return change
    if (change.kind === 'rule' && change.value.state !== 'enabled' && isNot(policy.rules, change.value.id))
      return { ...change, rule: { ...change.value, state: 'enabled' } }
    if (change.kind === 'assignment' && change.value.state !== 'enabled' && isNot(policy.assignments, change.value.id))
      return { ...change, assignment: { ...change.value, state: 'enabled' } }
    return change
  })
}

function isNot(clauses: readonly { id: string, state: string }[], id: string | undefined): boolean {
  return clauses.find(c => c.id === id)?.state !== 'enabled'
}
