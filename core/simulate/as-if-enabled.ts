import type { Clauses, PolicyChange } from '../change'

/**
 * The same changes as if the clauses that they put were enabled: the impact of a clause that only monitors, or is made disabled, is what
 * it would do. A clause that is enabled now and disabled by the change stays disabled.
 */
export function asIfEnabled(policy: Pick<Clauses, 'rules' | 'assignments'>, changes: readonly PolicyChange[]): PolicyChange[] {
  return changes.map((change) => {
    if (change.type !== 'put') return change
    if (change.kind === 'rule' && change.value.state !== 'enabled' && isNot(policy.rules, change.value.id))
      return { ...change, value: { ...change.value, state: 'enabled' } }
    if (change.kind === 'assignment' && change.value.state !== 'enabled' && isNot(policy.assignments, change.value.id))
      return { ...change, value: { ...change.value, state: 'enabled' } }
    return change
  })
}

function isNot(clauses: readonly { id: string, state: string }[], id: string | undefined): boolean {
  return clauses.find(c => c.id === id)?.state !== 'enabled'
}
