import { entryKey } from '../kinds'
import type { Entry, List, PhraseItem, PhraseSet } from '../policy'
import type { EntryPut, PolicyChange } from './types'

/** What clauses refer to by its id, and that finds more than before. */
export type Wider = { list: string } | { set: string }

/** The clauses before a change, as far as it is asked whether it widens them. */
export interface Before {
  list(id: string): List | undefined
  set(id: string): PhraseSet | undefined
  entry(list: string, key: string): Entry | undefined
}

/**
 * What a change makes wider: a list by an entry that is new or may live otherwise, or by being switched on; a phrase set by a
 * phrase that was not there just so, or by a minimum that is reached sooner. Null for everything else.
 */
export function widens(before: Before, change: PolicyChange): Wider | null {
  if (change.type !== 'put') return null
  if (change.kind === 'entries') return addsTo(before, change.list, change.entries) ? { list: change.list } : null
  if (change.kind === 'list') {
    const { id = '', enabled, entries } = change.value
    const there = before.list(id)
    const wider = there && ((enabled && !there.enabled) || (entries && addsTo(before, id, entries)))
    return wider ? { list: id } : null
  }
  if (change.kind === 'phraseSet') {
    const now = change.value
    const there = before.set(now.id ?? '')
    return there && isWider(now, there) ? { set: there.id } : null
  }
  return null
}

function addsTo(before: Before, list: string, entries: readonly EntryPut[]): boolean {
  return entries.some((e) => {
    const there = before.entry(list, entryKey(e))
    return !there || there.expires !== e.expires
  })
}

function isWider(now: Pick<PhraseSet, 'phrases' | 'minimum'>, before: PhraseSet): boolean {
  if ((now.minimum ?? 0) < (before.minimum ?? 0)) return true
  const known = new Set(before.phrases.map(phraseKey))
  return now.phrases.some(p => !known.has(phraseKey(p)))
}

/** Two phrases have the same key if they say the same, in whatever order their parts are written. */
function phraseKey(phrase: PhraseItem): string {
  return JSON.stringify(phrase, (_, value: unknown) =>
    value !== null && typeof value === 'object' && !Array.isArray(value)
      ? Object.fromEntries(Object.entries(value).sort(([a], [b]) => (a < b ? -1 : 1)))
      : value)
}
