import { and, eq, inArray, isNull } from 'drizzle-orm'
import type { Entry, EntryKind } from '#core'
import { db } from '../db/client'
import { entries, lists } from '../db/schema'
import { cleanText } from './clean-text'
import { MOST_LINES, type ReadLines, type WrongLine } from './entry-lines'
import { currentList } from './list-access'
import { mustBeAllowed } from './ownership'
import type { Asker } from './people'
import { addEntries, changePolicy, endRows, entryOf, lapseConfirmations, newId, type Change } from './policy-store'
import { refreshPolicy } from './policy-in-force'
import { invalid, notFound, somebodyFaster } from './problem'
import { readLinesElsewhere } from './workers'

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
  const added = await changePolicy(
    asker.id,
    row.owner,
    `List “${row.name}”: ${countWords(read.good.length)} added: ${read.good
      .slice(0, 3)
      .map(g => g.value)
      .join(', ')}${read.good.length > 3 ? ', …' : ''}`,
    async (change) => {
      const [still] = await change.tx
        .select({ id: lists.id })
        .from(lists)
        .where(and(eq(lists.id, id), isNull(lists.toVersion)))
      if (!still) throw notFound('list of that name')
      await lapseConfirmations(change, id)
      return addRead(change, asker, id, read, options)
    },
  )
  await refreshPolicy()
  return added
}

/** Adds what was read and is not there yet. */
export async function addRead(
  change: Change,
  asker: Asker,
  listId: string,
  read: ReadLines,
  options: { note?: string, expires?: string },
): Promise<Added> {
  const there = new Set<string>()
  for (let i = 0; i < read.good.length; i += 5000) {
    const values = read.good.slice(i, i + 5000).map(g => g.value)
    const rows = await change.tx
      .select({ kind: entries.kind, value: entries.value })
      .from(entries)
      .where(and(eq(entries.listId, listId), isNull(entries.toVersion), inArray(entries.value, values)))
    for (const row of rows) there.add(`${row.kind} ${row.value}`)
  }
  const fresh: Entry[] = read.good
    .filter(g => !there.has(`${g.kind} ${g.value}`))
    .map(g => ({
      id: newId(),
      ...g,
      addedAt: new Date().toISOString(),
      addedBy: asker.name,
      ...(options.note ? { note: cleanText(options.note) } : {}),
      ...(options.expires ? { expires: options.expires } : {}),
    }))
  await addEntries(change, listId, fresh)
  return {
    added: fresh.map(({ id, kind, value }) => ({ id, kind, value })),
    there: read.good.filter(g => there.has(`${g.kind} ${g.value}`)).map(g => g.value),
    wrong: read.wrong,
  }
}

/** Takes entries out of a list. */
export async function takeFromList(asker: Asker, id: string, entryIds: readonly string[]): Promise<{ removed: number }> {
  const row = await currentList(asker, id)
  mustBeAllowed(asker, row.owner)
  const there = await db()
    .select({ id: entries.id, value: entries.value })
    .from(entries)
    .where(and(eq(entries.listId, id), inArray(entries.id, [...entryIds]), isNull(entries.toVersion)))
  if (!there.length) throw notFound('entry of that number on this list')
  await changePolicy(
    asker.id,
    row.owner,
    `List “${row.name}”: ${countWords(there.length)} taken out: ${there
      .slice(0, 3)
      .map(e => e.value)
      .join(', ')}${there.length > 3 ? ', …' : ''}`,
    async (change) => {
      await endRows(
        change,
        entries,
        there.map(e => e.id),
      )
    },
  )
  await refreshPolicy()
  return { removed: there.length }
}

/** Changes the note or the expiry of entries. What is left out stays; null takes it away. */
export async function changeEntries(
  asker: Asker,
  id: string,
  entryIds: readonly string[],
  { note, expires }: { note?: string | null, expires?: string | null },
): Promise<{ changed: number }> {
  const row = await currentList(asker, id)
  mustBeAllowed(asker, row.owner)
  if (note === undefined && expires === undefined) throw invalid('Say what is to change: the note, the expiry, or both.')
  const changed = await changePolicy(
    asker.id,
    row.owner,
    `List “${row.name}”: ${[...(note === undefined ? [] : ['note']), ...(expires === undefined ? [] : ['expiry'])].join(' and ')} of ${countWords(entryIds.length)} changed`,
    async (change) => {
      const there = await change.tx
        .select()
        .from(entries)
        .where(and(eq(entries.listId, id), inArray(entries.id, [...entryIds]), isNull(entries.toVersion)))
      if (there.length !== entryIds.length) throw somebodyFaster(`“${row.name}”`)
      // An entry that lives longer makes the list wider.
      if (expires !== undefined) await lapseConfirmations(change, id)
      await endRows(change, entries, entryIds)
      await addEntries(
        change,
        id,
        there
          .map(entryOf)
          .map(e => ({
            ...e,
            note: note === undefined ? e.note : cleanText(note ?? ''),
            expires: expires === undefined ? e.expires : (expires ?? undefined),
          })),
      )
      return there.length
    },
  )
  await refreshPolicy()
  return { changed }
}

/** So many entries, in words. */
export function countWords(n: number): string {
  return n === 1 ? '1 entry' : `${n} entries`
}
