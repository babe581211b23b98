import type { Owner } from '../policy'
import type { Clauses } from './types'

/** The owner of each list, use, rule and phrase set, by what it is and its id: `rule ID`, as in `remove` of a change. */
export function clauseOwners({ lists, assignments, rules, phraseSets }: Omit<Clauses, 'quarantines' | 'thresholds'>): Map<string, Owner> {
  const owners = new Map<string, Owner>()
  for (const [what, things] of [['list', lists], ['assignment', assignments], ['rule', rules], ['phraseSet', phraseSets]] as const)
    for (const { id, owner } of things) owners.set(`${what} ${id}`, owner)
  return owners
}
