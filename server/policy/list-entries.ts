import { and, eq, inArray, isNull, sql } from 'drizzle-orm'
import type { Entry, EntryKind, Owner } from '#core'
import { entries, lists } from '../db/schema'
import { MOST_LINES, type ReadLines, type WrongLine } from './entry-lines'
import { currentList } from '../access/list-access'
import { mustBeAllowed } from '../access/ownership'
import type { Asker } from '../access/roles'
import { addEntries, changePolicy, endRows, entryOf, lapseConfirmations, newId, standing, Unchanged, type Change } from './store'
import { refreshPolicy } from './in-force'
import { invalid, notFound, somebodyFaster } from '../platform/problem'
import { mustFit } from '../access/quota'
import { readLinesElsewhere } from './elsewhere'

/** What became of lines that somebody typed or pasted. */
export interface Added {
  added: { id: string, kind: EntryKind, value: string }[]
  /** On the list already. */
  there: string[]
  wrong: WrongLine[]
}

/** Reads what was typed or pasted. @throws where it is more than is read at once */
export async function readPasted(text: string, below: boolean, as?: EntryKind): Promise<ReadLines> {
  const read = await readLinesElsewhere({ text, below, as })
  if (read.count > MOST_LINES)
    throw invalid(`That is ${read.count} lines; at most ${MOST_LINES} can be pasted at once. Paste them in parts.`, {
      text: 'Too many lines.',
    })
  return read
}

/** Adds what was typed or pasted to a list; what cannot be read comes back, the rest is added. */
export async function addToList(
  asker: Asker,
  id: string,
  text: string,
  options: { below: boolean, as?: EntryKind, note?: string, expires?: string },
): Promise<Added> {
  const row = await currentList(asker, id)
  mustBeAllowed(asker, row.owner)
  const read = await readPasted(text, options.below, options.as)
  if (!read.good.length) {
    if (read.wrong.length) return { added: [], there: [], wrong: read.wrong }
    throw invalid('There is nothing to add. Write one address or domain a line.', { text: 'Write one address or domain a line.' })
  }
  const added = await changePolicy<Added>(
    asker.id,
    row.owner,
    ({ added: fresh }) => `List “${row.name}”: ${countWords(fresh.length)} added: ${someOf(fresh.map(g => g.value))}`,
    async (change) => {
      if (!(await standing(change, lists, id))) throw notFound('list of that name')
      const result = await addRead(change, asker, row, read, options)
      if (!result.added.length) return new Unchanged(result)
      await lapseConfirmations(change, { list: id })
      return result
    },
  )
  await refreshPolicy()
  return added
}

/** Adds what was read and is not there yet. */
export async function addRead(
  change: Change,
  asker: Asker,
  { id: listId, owner }: { id: string, owner: Owner },
  read: ReadLines,
  options: { note?: string, expires?: string },
): Promise<Added> {
  const there = new Set<string>()
  for (let i = 0; i < read.good.length; i += 5000) {
    const values = sql.param(read.good.slice(i, i + 5000).map(g => g.value))
    const rows = await change.tx
      .select({ kind: entries.kind, value: entries.value })
      .from(entries)
      .where(and(eq(entries.listId, listId), isNull(entries.toVersion), sql`${entries.value} = any(${values})`))
    for (const row of rows) there.add(`${row.kind} ${row.value}`)
  }
  const fresh: Entry[] = read.good
    .filter(g => !there.has(`${g.kind} ${g.value}`))
    .map(g => ({
      id: newId(),
      ...g,
      addedAt: new Date().toISOString(),
      addedBy: asker.name,
      ...(options.note ? { note: options.note } : {}),
      ...(options.expires ? { expires: options.expires } : {}),
    }))
  await addEntries(change, listId, fresh)
  if (fresh.length) await mustFit(change, asker, owner, 'entries')
  return {
    added: fresh.map(({ id, kind, value }) => ({ id, kind, value })),
    there: read.good.filter(g => there.has(`${g.kind} ${g.value}`)).map(g => g.value),
    wrong: read.wrong,
  }
}

/** Takes entries out of a list. What somebody else has taken out meanwhile is gone, and no second act. */
export async function takeFromList(asker: Asker, id: string, entryIds: readonly string[]): Promise<{ removed: number }> {
  const row = await currentList(asker, id)
  mustBeAllowed(asker, row.owner)
  const removed = await changePolicy<{ id: string, value: string }[]>(
    asker.id,
    row.owner,
    there => `List “${row.name}”: ${countWords(there.length)} taken out: ${someOf(there.map(e => e.value))}`,
    async (change) => {
      const those = and(eq(entries.listId, id), inArray(entries.id, [...entryIds]))
      const there = await change.tx
        .select({ id: entries.id, value: entries.value })
        .from(entries)
        .where(and(those, isNull(entries.toVersion)))
      if (!there.length) {
        const [once] = await change.tx.select({ id: entries.id }).from(entries).where(those).limit(1)
        if (!once) throw notFound('entry of that number on this list')
        return new Unchanged(there)
      }
      await endRows(
        change,
        entries,
        there.map(e => e.id),
      )
      return there
    },
  )
  await refreshPolicy()
  return { removed: removed.length }
}

/**
 * Changes the note or the expiry of entries. What is left out stays; null takes it away.
 * @param seen version of the policy when they were seen: of two who change one entry the second is told
 */
export async function changeEntries(
  asker: Asker,
  id: string,
  entryIds: readonly string[],
  seen: number,
  { note, expires }: { note?: string | null, expires?: string | null },
): Promise<{ changed: number }> {
  const row = await currentList(asker, id)
  mustBeAllowed(asker, row.owner)
  if (note === undefined && expires === undefined) throw invalid('Say what is to change: the note, the expiry, or both.')
  const what = [...(note === undefined ? [] : ['note']), ...(expires === undefined ? [] : ['expiry'])].join(' and ')
  const changed = await changePolicy(
    asker.id,
    row.owner,
    `List “${row.name}”: ${what} of ${countWords(entryIds.length)} changed`,
    async (change) => {
      const there = await change.tx
        .select()
        .from(entries)
        .where(and(eq(entries.listId, id), inArray(entries.id, [...entryIds]), isNull(entries.toVersion)))
      if (there.length !== entryIds.length || there.some(e => e.fromVersion > seen)) throw somebodyFaster(`“${row.name}”`)
      // An entry that lives longer makes the list wider.
      if (expires !== undefined) await lapseConfirmations(change, { list: id })
      await endRows(change, entries, entryIds)
      await addEntries(
        change,
        id,
        there.map(entryOf).map(e => ({
          ...e,
          note: note === undefined ? e.note : (note ?? ''),
          expires: expires === undefined ? e.expires : (expires ?? undefined),
        })),
      )
      return there.length
    },
  )
  await refreshPolicy()
  return { changed }
}

// The first of them, for a note that is read in passing.
function someOf(values: readonly string[]): string {
  return values.slice(0, 3).join(', ') + (values.length > 3 ? ', …' : '')
}

/** So many entries, in words. */
export function countWords(n: number): string {
  return n === 1 ? '1 entry' : `${n} entries`
}
