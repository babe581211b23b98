import type { ClauseRef, Decision } from '../decide'
import type { Owner } from '../policy'

/** A clause that speaks of examples already. */
export interface ExistingClause {
  clause: ClauseRef
  owner: Owner
  /** Of how many. */
  catches: number
  /** Ids of the examples that it does not catch. */
  misses: number[]
}

/**
 * Which clauses keep examples from their recipients, or protect them now: what somebody is about to say once more, or
 * to contradict.
 * @param which those that stop, or those that protect
 */
export function existingClauses(decisions: readonly { id: number, decision: Decision }[], which: 'stop' | 'protect'): ExistingClause[] {
  const found = new Map<string, { clause: ClauseRef, owner: Owner, ids: Set<number> }>()
  for (const { id, decision } of decisions)
    for (const { clause, owner, claim, outcome } of decision.reasons) {
      if (!(which in claim) || SILENT.has(outcome.kind)) continue
      const key = `${clause.kind} ${clause.id}`
      const one = found.get(key) ?? { clause, owner, ids: new Set<number>() }
      one.ids.add(id)
      found.set(key, one)
    }
  return [...found.values()]
    .map(({ clause, owner, ids }) => ({ clause, owner, catches: ids.size, misses: decisions.map(r => r.id).filter(id => !ids.has(id)) }))
    .sort((a, b) => b.catches - a.catches)
}

const SILENT: ReadonlySet<string> = new Set(['notCounted', 'excepted', 'monitored', 'notReached'])
