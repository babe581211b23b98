import { isPersonal, type Assignment, type Entry, type List, type Owner, type Stop } from '../policy'
import type { PolicyChange } from './types'

/** A list as it is copied: with all its entries, and how its owner puts it to use. */
export interface CopiedList {
  list: Omit<List, 'entries'>
  entries: readonly Entry[]
  assignments: readonly Assignment[]
}

/**
 * The changes that make a copy of a list for another owner: the entries with their notes and expiry dates, and the assignments of the
 * list's own owner. What others use the list for stays with the list.
 * @param names of the lists that the new owner has: a copy of the same name says what it is
 * @param id makes ids
 */
export function copyListTo(
  { list, entries, assignments }: CopiedList,
  owner: Owner,
  { names, id }: { names: readonly string[], id: () => string },
): PolicyChange[] {
  const taken = new Set(names.map(n => n.toLowerCase()))
  let name = list.name
  for (let n = 1; taken.has(name.toLowerCase()); n++) name = `${list.name} (copy${n > 1 ? ` ${n}` : ''})`
  const copy = id()
  const own = assignments.filter(a => a.list === list.id && a.owner === list.owner)
  return [
    { type: 'put', kind: 'list', value: { id: copy, name, owner, usualSide: list.usualSide, enabled: list.enabled } },
    ...(entries.length
      ? [{
          type: 'put' as const,
          kind: 'entries' as const,
          list: copy,
          entries: entries.map(({ kind, value, note, expires }) => ({
            kind, value, ...(note ? { note } : {}), ...(expires ? { expires } : {}),
          })),
        }]
      : []),
    ...own.map(({ id: _, mandatory, stop, ...rest }) => ({
      type: 'put' as const,
      kind: 'assignment' as const,
      value: {
        ...rest,
        ...(stop ? { stop: unconfirmed(stop) } : {}),
        ...(mandatory && !isPersonal(owner) ? { mandatory } : {}),
        list: copy,
        owner,
      },
    })),
  ]
}

// Whose mail may be lost for good was confirmed for the first owner's only.
function unconfirmed({ confirmed: _, ...stop }: Stop): Stop {
  return stop
}
