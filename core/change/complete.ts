import type { EntryPut, PolicyChange } from './types'

/** What is given to things that are made. */
export interface Making {
  /** A new id each time. */
  id(): string
  /** ISO 8601 instant. */
  now: string
  /** Name of whoever makes the change; null for nobody in particular. */
  by: string | null
}

/** The same changes with an id for everything that has none, and for entries when and by whom they were added. */
export function completed(changes: readonly PolicyChange[], making: Making): PolicyChange[] {
  return changes.map((change) => {
    if (change.type !== 'put') return change
    switch (change.kind) {
      case 'entries':
        return { ...change, entries: change.entries.map(e => completedEntry(e, making)) }
      case 'list': {
        const { entries } = change.value
        const list = { ...change.value, id: change.value.id ?? making.id() }
        return { ...change, value: entries ? { ...list, entries: entries.map(e => completedEntry(e, making)) } : list }
      }
      case 'assignment':
        return { ...change, value: { ...change.value, id: change.value.id ?? making.id() } }
      case 'rule':
        return { ...change, value: { ...change.value, id: change.value.id ?? making.id() } }
      case 'phraseSet':
        return { ...change, value: { ...change.value, id: change.value.id ?? making.id() } }
      case 'quarantine':
        return { ...change, value: { ...change.value, id: change.value.id ?? making.id() } }
      case 'threshold':
        return change
    }
  })
}

function completedEntry(entry: EntryPut, { id, now, by }: Making): EntryPut & { id: string } {
  return { ...entry, id: entry.id ?? id(), addedAt: entry.addedAt ?? now, ...(by === null ? {} : { addedBy: entry.addedBy ?? by }) }
}
