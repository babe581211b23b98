import { clauseKey, type ClauseRef } from '../decide'
import type { Caused } from './causes'

/** Which clauses are to be changed for which copies, so that all of these end where they should. */
export type Plan = Map<string, { clause: ClauseRef, copies: Caused[] }>

/** Different plans that are looked at. */
const MAX_PLANS = 6

/**
 * Ways to choose, for each copy, one of the smallest sets the cause of it. Sets that serve many copies come first; none touches a
 * clause that is in no smallest set.
 */
export function plansFor(caused: readonly Caused[]): Plan[] {
  const found = caused.filter(b => b.sets.length)
  const serves = new Map<string, { set: ClauseRef[], copies: number }>()
  for (const { sets } of found)
    for (const set of sets) {
      const there = serves.get(setKey(set))
      if (there) there.copies++
      else serves.set(setKey(set), { set, copies: 1 })
    }
  const ranked = [...serves.values()].sort((a, b) => b.copies - a.copies)
  const plans = ranked.slice(0, MAX_PLANS).map(first => planFrom(found, [first, ...ranked].map(r => setKey(r.set))))
  return [...new Map(plans.map(plan => [planKey(plan), plan])).values()]
}

function planKey(plan: Plan): string {
  return [...plan].map(([key, { copies }]) => `${key}: ${copies.map(c => c.id).join(' ')}`).sort().join('\n')
}

function planFrom(caused: readonly Caused[], order: readonly string[]): Plan {
  const plan: Plan = new Map()
  for (const copy of caused) {
    const keyed = new Map(copy.sets.map(set => [setKey(set), set]))
    const chosen = keyed.get(order.find(key => keyed.has(key))!)!
    for (const clause of chosen) {
      const there = plan.get(clauseKey(clause)) ?? { clause, copies: [] }
      there.copies.push(copy)
      plan.set(clauseKey(clause), there)
    }
  }
  return plan
}

function setKey(set: readonly ClauseRef[]): string {
  return set.map(clauseKey).sort().join('\n')
}
