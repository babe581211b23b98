import isSame from 'fast-deep-equal'
import { entryKey } from '../kinds'
import type { PhraseSet } from '../policy'
import type { Clauses, EntryPut, PolicyChange } from './types'

/** What clauses refer to by its id, and that finds more than before. */
export type Wider = { list: string } | { set: string }

/**
 * What a change makes wider: a list by an entry that is new or may live otherwise, or by being switched on; a phrase set by a
 * phrase that was not there just so, or by a minimum that is reached sooner. Null for everything else.
 */
export function widens(policy: Clauses, change: PolicyChange): Wider | null {
  if (!('put' in change)) return null
  if (change.put === 'entries') return addsTo(policy, change.list, change.entries) ? { list: change.list } : null
  if (change.put === 'list') {
    const { id = '', on, entries } = change.list
    const before = policy.lists.find(l => l.id === id)
    const wider = before && ((on && !before.on) || (entries && addsTo(policy, id, entries)))
    return wider ? { list: id } : null
  }
  if (change.put === 'phrase set') {
    const now = change['phrase set']
    const before = policy.phraseSets.find(s => s.id === now.id)
    return before && isWider(now, before) ? { set: before.id } : null
  }
  return null
}

function addsTo(policy: Clauses, list: string, entries: readonly EntryPut[]): boolean {
  const there = policy.lists.find(l => l.id === list)?.entries ?? []
  const known = new Map(there.map(e => [entryKey(e), e]))
  return entries.some((e) => {
    const before = known.get(entryKey(e))
    return !before || before.expires !== e.expires
  })
}

function isWider(now: Pick<PhraseSet, 'phrases' | 'minimum'>, before: PhraseSet): boolean {
  return (now.minimum ?? 0) < (before.minimum ?? 0) || now.phrases.some(p => !before.phrases.some(b => isSame(p, b)))
}
