import { refersToList, refersToSet, type Stop } from '../policy'
import { THRESHOLDS, type Clauses, type PolicyChange, type Touched } from './types'

/** The clauses that a change may affect, through lists, sets and quarantines too; those that it makes among them. */
export function touches(policy: Clauses, change: PolicyChange): Touched[] {
  if (change.type === 'order') return policy.rules.filter(r => r.owner === change.owner).map(r => ({ kind: 'rule', id: r.id }))
  if (change.type === 'put') {
    if (change.kind === 'entries') return usersOfList(policy, change.list)
    if (change.kind === 'list') return usersOfList(policy, change.value.id ?? '')
    if (change.kind === 'phraseSet') return usersOfSet(policy, change.value.id ?? '')
    if (change.kind === 'quarantine') return usersOfQuarantine(policy, change.value.id ?? '')
    if (change.kind === 'assignment') return [{ kind: 'assignment', id: change.value.id ?? '' }]
    if (change.kind === 'rule') return [{ kind: 'rule', id: change.value.id ?? '' }]
    return [{ kind: 'threshold', id: change.value.id }]
  }
  switch (change.kind) {
    case 'entries':
      return usersOfList(policy, change.list)
    case 'list':
      return usersOfList(policy, change.id)
    case 'phraseSet':
      return usersOfSet(policy, change.id)
    case 'quarantine':
      return usersOfQuarantine(policy, change.id)
    case 'assignment':
    case 'rule':
    case 'threshold':
      return [{ kind: change.kind, id: change.id }]
  }
}

function usersOfList(policy: Clauses, id: string): Touched[] {
  return [
    ...policy.assignments.filter(b => b.list === id).map(b => ({ kind: 'assignment' as const, id: b.id })),
    ...policy.rules.filter(r => refersToList(r, id)).map(r => ({ kind: 'rule' as const, id: r.id })),
  ]
}

function usersOfSet(policy: Clauses, id: string): Touched[] {
  return policy.rules.filter(r => refersToSet(r, id)).map(r => ({ kind: 'rule', id: r.id }))
}

function usersOfQuarantine(policy: Clauses, id: string): Touched[] {
  const holds = (stop: Stop | undefined) => stop?.to === 'quarantine' && stop.quarantine === id
  return [
    ...policy.assignments.filter(b => holds(b.stop)).map(b => ({ kind: 'assignment' as const, id: b.id })),
    ...policy.rules.filter(r => r.claims.some(c => 'stop' in c && holds(c.stop))).map(r => ({ kind: 'rule' as const, id: r.id })),
    ...THRESHOLDS.filter(t => holds(policy.thresholds?.[t]?.stop)).map(id => ({ kind: 'threshold' as const, id })),
  ]
}
