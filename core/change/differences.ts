import isSame from 'fast-deep-equal'
import { addTo } from '../add-to'
import { entryKey } from '../kinds'
import type { Entry, Owner, Rule } from '../policy'
import { apply } from './apply'
import { RuleOrder } from './rule-order'
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
  const assignments = compared(before.assignments.filter(b => !goneLists.has(b.list)), after.assignments)
  const there = new Map(before.lists.map(l => [l.id, l.entries]))
  const entriesBefore = (list: string) => (goneLists.has(list) ? [] : (there.get(list) ?? []))
  const changes: PolicyChange[] = [
    ...rules.removed.map(id => ({ type: 'remove' as const, kind: 'rule' as const, id })),
    ...assignments.removed.map(id => ({ type: 'remove' as const, kind: 'assignment' as const, id })),
    ...lists.removed.map(id => ({ type: 'remove' as const, kind: 'list' as const, id })),
    ...sets.removed.map(id => ({ type: 'remove' as const, kind: 'phraseSet' as const, id })),
    ...quarantines.removed.map(id => ({ type: 'remove' as const, kind: 'quarantine' as const, id })),
    ...quarantines.put.map(quarantine => ({ type: 'put' as const, kind: 'quarantine' as const, value: quarantine })),
    ...lists.put.map(list => ({ type: 'put' as const, kind: 'list' as const, value: list })),
    ...sets.put.map(set => ({ type: 'put' as const, kind: 'phraseSet' as const, value: set })),
    ...after.lists.flatMap(list => entryChanges(list.id, entriesBefore(list.id), list.entries)),
    ...assignments.put.map(assignment => ({ type: 'put' as const, kind: 'assignment' as const, value: assignment })),
    ...rules.put.map(rule => ({ type: 'put' as const, kind: 'rule' as const, value: rule })),
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
function head({ id, name, owner, usualSide, enabled }: Clauses['lists'][number]) {
  return { id, name, owner, usualSide, enabled }
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
  // A paste into a new list: there is nothing to compare a hundred thousand entries with.
  if (!before.length) return after.length ? [{ type: 'put' as const, kind: 'entries' as const, list, entries: [...after] }] : []
  const was = new Map(before.map(e => [entryKey(e), e]))
  // One that was taken out and added again is another, though it says the same.
  const is = new Map(after.map(e => [entryKey(e), e.id]))
  const removed = before.filter(e => is.get(entryKey(e)) !== e.id)
  const put = after.filter(e => was.get(entryKey(e)) !== e && !isSame(was.get(entryKey(e)), e))
  return [
    ...(removed.length
      ? [{ type: 'remove' as const, kind: 'entries' as const, list, entries: removed.map(({ kind, value }) => ({ kind, value })) }]
      : []),
    ...(put.length ? [{ type: 'put' as const, kind: 'entries' as const, list, entries: put }] : []),
  ]
}

function thresholdChanges(before: Clauses, after: Clauses): PolicyChange[] {
  return THRESHOLDS.flatMap((id): PolicyChange[] => {
    const [was, is] = [before.thresholds?.[id], after.thresholds?.[id]]
    if (isSame(was, is)) return []
    return is ? [{ type: 'put', kind: 'threshold', value: { id, ...is } }] : [{ type: 'remove', kind: 'threshold', id }]
  })
}

// Where the rules of an owner would come to stand otherwise by themselves.
function orderChanges(before: Clauses, after: Clauses, changes: readonly PolicyChange[]): PolicyChange[] {
  const order = new RuleOrder(before.rules)
  for (const change of changes) {
    if (change.type === 'put' && change.kind === 'rule') order.put(change.value as Rule)
    else if (change.type === 'remove' && change.kind === 'rule') order.remove(change.id)
  }
  const without = idsByOwner(order.rules())
  return [...idsByOwner(after.rules)].flatMap(([owner, ids]) =>
    isSame(without.get(owner), ids) ? [] : [{ type: 'order', kind: 'rule', owner: owner, ids: ids }],
  )
}

function idsByOwner(rules: readonly Rule[]): Map<Owner, string[]> {
  const ids = new Map<Owner, string[]>()
  for (const { owner, id } of rules) addTo(ids, owner, id)
  return ids
}
