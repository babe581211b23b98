import type { Clauses, PolicyChange } from '../change'

/**
 * The same changes as if what they put were acting: what is watched, or made switched off, would do nothing, and it is asked
 * what it would do. What acts now and is switched off stays so.
 */
export function asIfActing(policy: Pick<Clauses, 'rules' | 'assignments'>, changes: readonly PolicyChange[]): PolicyChange[] {
  return changes.map((change) => {
    if (!('put' in change)) return change
    if (change.put === 'rule' && change.rule.state !== 'enabled' && isNot(policy.rules, change.rule.id))
      return { ...change, rule: { ...change.rule, state: 'enabled' } }
    if (change.put === 'assignment' && change.assignment.state !== 'enabled' && isNot(policy.assignments, change.assignment.id))
      return { ...change, assignment: { ...change.assignment, state: 'enabled' } }
    return change
  })
}

function isNot(clauses: readonly { id: string, state: string }[], id: string | undefined): boolean {
  return clauses.find(c => c.id === id)?.state !== 'enabled'
}
