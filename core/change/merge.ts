import isSame from 'fast-deep-equal'
import type { Clauses, ClauseKind, PolicyChange } from './types'

/** Changes that were made on an older policy, as they are made on a newer one. */
export interface Merged {
  changes: PolicyChange[]
  /** What they replace that was changed since, as “exceptions of rule “Fee demands””; empty where both go together. */
  replaces: { kind: ClauseKind, id: string, part: string }[]
}

/** Where a policy holds things of a kind. */
export const COLLECTIONS = {
  list: 'lists',
  assignment: 'assignments',
  rule: 'rules',
  phraseSet: 'phraseSets',
  quarantine: 'quarantines',
} as const

/**
 * A three-way merge: what was changed of a thing on one side only stays changed; of what both changed, members of lists are added and
 * taken out by either side; for all else the changes prevail, and what they replace is told.
 * @param base the policy on which the changes were made; its lists may come without entries
 * @param now the policy on which they are to be made
 */
export function merged(changes: readonly PolicyChange[], base: Clauses, now: Clauses): Merged {
  const replaces: Merged['replaces'] = []
  const out = changes.map((change): PolicyChange => {
    if (change.type !== 'put' || change.kind === 'entries' || change.kind === 'threshold') return change
    const { kind } = change
    const id = change.value.id
    const find = (policy: Clauses) => (policy[COLLECTIONS[kind]] as readonly { id: string }[]).find(t => t.id === id)
    const [was, is] = [find(base), find(now)]
    if (id === undefined || !was || !is || isSame(was, is)) return change
    const value = both({ was, theirs: is, mine: change.value }, part => replaces.push({ kind, id, part }))
    return { ...change, value } as PolicyChange
  })
  return { changes: out, replaces }
}

/** Parts whose members stand each for itself; of actions, for one, there may be only one of a kind. */
const MEMBERS = new Set(['when', 'except', 'phrases'])

type Fields = Record<string, unknown>

/** One thing, or a part of it: as it was, as others made it, and as the changes make it. */
interface Sides {
  was: unknown
  theirs: unknown
  mine: unknown
}

function both({ was, theirs, mine }: Sides, conflict: (part: string) => void, part = ''): unknown {
  if (isSame(mine, was) || isSame(mine, theirs)) return theirs
  if (isSame(theirs, was)) return mine
  if (MEMBERS.has(part) && Array.isArray(was) && Array.isArray(theirs) && Array.isArray(mine)) {
    // As many as before: each is what it was, or was changed.
    const each = was.length === theirs.length && was.length === mine.length && was.every(isFields)
    return each ? was.map((w, i) => both({ was: w, theirs: theirs[i], mine: mine[i] }, conflict, part)) : bothLists(was, theirs, mine)
  }
  if (isFields(was) && isFields(theirs) && isFields(mine) && (part === '' || sameKeys(was, theirs, mine))) {
    const keys = [...new Set([...Object.keys(theirs), ...Object.keys(mine)])]
    // What one side took out stays out.
    const entries = keys.map(key => [key, both({ was: was[key], theirs: theirs[key], mine: mine[key] }, conflict, part || key)] as const)
    return Object.fromEntries(entries.filter(([, value]) => value !== undefined))
  }
  conflict(part)
  return mine
}

function bothLists(was: readonly unknown[], theirs: readonly unknown[], mine: readonly unknown[]): unknown[] {
  const has = (list: readonly unknown[], one: unknown) => list.some(o => isSame(o, one))
  const left = theirs.filter(one => !has(was, one) || has(mine, one))
  return [...left, ...mine.filter(one => !has(was, one) && !has(left, one))]
}

function isFields(value: unknown): value is Fields {
  return typeof value === 'object' && value !== null && !Array.isArray(value)
}

function sameKeys(...of: Fields[]): boolean {
  const keys = of.map(o => Object.keys(o).sort().join('\n'))
  return keys.every(k => k === keys[0])
}
