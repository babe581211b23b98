import isSame from 'fast-deep-equal'
import { entryKey } from '../kinds'
import type { Entry, Rule } from '../policy'
import { apply, applyOne } from './apply'
import { THRESHOLDS, type Clauses, type PolicyChange } from './types'

/** The changes by which one policy becomes another. */
export function differences(before: Clauses, after: Clauses): PolicyChange[] {
  const lists = compared(before.lists.map(head), after.lists.map(head))
  const [rules, sets, quarantines] = [
    compared(before.rules, after.rules),
    compared(before.phraseSets, after.phraseSets),
    compared(before.quarantines, after.quarantines),
  ]
  // A list that goes takes its uses and its entries along, also where another of its id comes: then they are put anew.
  const goneLists = new Set(lists.removed)
  const uses = compared(before.bindings.filter(b => !goneLists.has(b.list)), after.bindings)
  const entriesBefore = (list: string) => (goneLists.has(list) ? [] : (before.lists.find(l => l.id === list)?.entries ?? []))
  const changes: PolicyChange[] = [
    ...rules.removed.map(id => ({ remove: 'rule' as const, id })),
    ...uses.removed.map(id => ({ remove: 'use' as const, id })),
    ...lists.removed.map(id => ({ remove: 'list' as const, id })),
    ...sets.removed.map(id => ({ remove: 'phrase set' as const, id })),
    ...quarantines.removed.map(id => ({ remove: 'quarantine' as const, id })),
    ...quarantines.put.map(quarantine => ({ put: 'quarantine' as const, quarantine })),
    ...lists.put.map(list => ({ put: 'list' as const, list })),
    ...sets.put.map(set => ({ 'put': 'phrase set' as const, 'phrase set': set })),
    ...after.lists.flatMap(list => entryChanges(list.id, entriesBefore(list.id), list.entries)),
    ...uses.put.map(use => ({ put: 'use' as const, use })),
    ...rules.put.map(rule => ({ put: 'rule' as const, rule })),
    ...thresholdChanges(before, after),
  ]
  return [...changes, ...orderChanges(before, after, changes)]
}

/**
 * The changes that take others back.
 * @param before the policy before them
 * @param after the same after them
 */
export function inverse(before: Clauses, after: Clauses): PolicyChange[] {
  const back = differences(after, before)
  const got = apply(after, back)
  // What comes back makes lists wider, and confirmations that were given for just that lapse; they were given, and are put back.
  return 'policy' in got ? [...back, ...differences(got.policy, before)] : back
}

// Without entries: those are compared apart, since there may be a million.
function head({ id, name, owner, usualSide, on }: Clauses['lists'][number]) {
  return { id, name, owner, usualSide, on }
}

function compared<T extends { id: string, owner?: string }>(before: readonly T[], after: readonly T[]): { removed: string[], put: T[] } {
  const was = new Map(before.map(t => [t.id, t]))
  const is = new Set(after.map(t => t.id))
  // What belongs to somebody else now is another thing, though of the same id.
  const owners = new Map(after.map(t => [t.id, t.owner]))
  return {
    removed: before.filter(t => !is.has(t.id) || owners.get(t.id) !== t.owner).map(t => t.id),
    put: after.filter(t => was.get(t.id) !== t && !isSame(was.get(t.id), t)),
  }
}

function entryChanges(list: string, before: readonly Entry[], after: readonly Entry[]): PolicyChange[] {
  if (before === after) return []
  const was = new Map(before.map(e => [entryKey(e), e]))
  // One that was taken out and added again is another, though it says the same.
  const is = new Map(after.map(e => [entryKey(e), e.id]))
  const removed = before.filter(e => is.get(entryKey(e)) !== e.id)
  const put = after.filter(e => was.get(entryKey(e)) !== e && !isSame(was.get(entryKey(e)), e))
  return [
    ...(removed.length ? [{ remove: 'entries' as const, list, entries: removed.map(({ kind, value }) => ({ kind, value })) }] : []),
    ...(put.length ? [{ put: 'entries' as const, list, entries: put }] : []),
  ]
}

function thresholdChanges(before: Clauses, after: Clauses): PolicyChange[] {
  return THRESHOLDS.flatMap((id): PolicyChange[] => {
    const [was, is] = [before.thresholds?.[id], after.thresholds?.[id]]
    if (isSame(was, is)) return []
    return is ? [{ put: 'threshold', threshold: { id, ...is } }] : [{ remove: 'threshold', id }]
  })
}

// Where the rules of an owner would come to stand otherwise by themselves.
function orderChanges(before: Clauses, after: Clauses, changes: readonly PolicyChange[]): PolicyChange[] {
  const without = changes.reduce((rules, change) => stepped(rules, change), before.rules)
  const owners = new Set(after.rules.map(r => r.owner))
  return [...owners].flatMap((owner) => {
    const ids = (rules: readonly Rule[]) => rules.filter(r => r.owner === owner).map(r => r.id)
    return isSame(ids(without), ids(after.rules)) ? [] : [{ order: owner, rules: ids(after.rules) }]
  })
}

function stepped(rules: Rule[], change: PolicyChange): Rule[] {
  const only = 'put' in change ? change.put === 'rule' : 'remove' in change && change.remove === 'rule'
  if (!only) return rules
  const got = applyOne({ quarantines: [], lists: [], bindings: [], phraseSets: [], rules }, change)
  return typeof got === 'string' ? rules : got.rules
}
