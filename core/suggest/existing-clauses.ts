import type { ClauseRef, Ruling } from '../decide'
import type { Owner } from '../policy'

/** A clause that speaks of examples already. */
export interface Speaking {
  clause: ClauseRef
  owner: Owner
  /** Of how many. */
  catches: number
  /** Ids of the examples that it does not catch. */
  misses: number[]
}

/**
 * Which clauses keep examples from their readers, or protect them, and do so in force: what somebody is about to say once more, or
 * to contradict.
 * @param which those that stop, or those that protect
 */
export function speakingOf(rulings: readonly { id: number, ruling: Ruling }[], which: 'stop' | 'protect'): Speaking[] {
  const found = new Map<string, { clause: ClauseRef, owner: Owner, ids: Set<number> }>()
  for (const { id, ruling } of rulings)
    for (const { clause, owner, claim, fate } of ruling.reasons) {
      if (!(which in claim) || SILENT.has(fate.kind)) continue
      const key = `${clause.kind} ${clause.id}`
      const one = found.get(key) ?? { clause, owner, ids: new Set<number>() }
      one.ids.add(id)
      found.set(key, one)
    }
  return [...found.values()]
    .map(({ clause, owner, ids }) => ({ clause, owner, catches: ids.size, misses: rulings.map(r => r.id).filter(id => !ids.has(id)) }))
    .sort((a, b) => b.catches - a.catches)
}

const SILENT: ReadonlySet<string> = new Set(['not counted', 'excepted', 'watching', 'not reached'])
