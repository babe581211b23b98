import { and, asc, eq, isNull } from 'drizzle-orm'
import { ENTRY_KINDS, entryKey, MOST_LINES, readEntryLine, writtenEntry, type EntryKind, type EntryText, type ReadLines } from '#core'
import type { EntryPut } from '#core/change'
import { currentList } from '../access/list-access'
import type { Asker } from '../access/roles'
import { db } from '../db/client'
import { entries } from '../db/schema'
import { asCsv, readCsv } from '../platform/csv'
import { invalid } from '../platform/problem'
import type { Done } from './apply'
import { addRead, type Added } from './list-entries'
import { entryOf } from './rows'

const COLUMNS = ['kind', 'value', 'note', 'expires', 'added', 'by'] as const

/** All entries of a list, as CSV (RFC 4180) or as plain lines that are read as the same entries. */
export async function entriesFile(asker: Asker, id: string, as: 'csv' | 'lines'): Promise<{ name: string, text: string }> {
  const list = await currentList(asker, id)
  const rows = (
    await db()
      .select()
      .from(entries)
      .where(and(eq(entries.listId, id), isNull(entries.toVersion)))
      .orderBy(asc(entries.row))
  ).map(entryOf)
  const text = as === 'csv'
    ? asCsv(COLUMNS, rows.map(e => [e.kind, e.value, e.note ?? '', e.expires ?? '', e.addedAt ?? '', e.addedBy ?? '']))
    : rows.map(e => `${lineOf(e)}\r\n`).join('')
  return { name: list.name, text }
}

// What only its kind tells is written with it, as a remark: a plain line cannot say it.
function lineOf(entry: EntryText): string {
  return writtenEntry(entry) ?? `# ${entry.kind}: ${entry.value.replace(/[\r\n]/g, ' ')}`
}

/** Adds the entries of a CSV file: a column value, and kind, note and expires where wanted. Of what is wrong the lines come back. */
export async function addFile(asker: Asker, id: string, text: string): Promise<Added & Done> {
  const { header, rows } = readCsv(text)
  if (!header.includes('value')) throw invalid('The first line has to name the columns: value, and kind, note and expires where wanted.', { text: 'No header.' })
  if (rows.length > MOST_LINES) throw invalid(`That is ${rows.length} lines; at most ${MOST_LINES} are read at once.`, { text: 'Too many lines.' })
  const good = new Map<string, { entry: EntryPut, line: number }>()
  const read: Pick<ReadLines, 'wrong' | 'twice'> = { wrong: [], twice: [] }
  for (const { line, cells } of rows) {
    const one = entryIn(cells)
    const shown = (cells.value ?? '').slice(0, 200)
    if ('error' in one) read.wrong.push({ line, text: shown, error: one.error })
    else {
      const first = good.get(entryKey(one))
      if (first) read.twice.push({ line, text: shown, first: first.line })
      else good.set(entryKey(one), { entry: one, line })
    }
  }
  const all = [...good.values()]
  return addRead(asker, id, { ...read, good: all.map(g => g.entry), at: all.map(g => g.line), count: rows.length }, {})
}

function entryIn({ value = '', kind = '', note = '', expires = '' }: Record<string, string>): EntryPut | { error: string } {
  if (!value && kind !== 'everyone') return { error: 'the value is missing' }
  if (kind && !ENTRY_KINDS.some(k => k === kind)) return { error: `“${kind.slice(0, 40)}” is no kind of entry; write ${ENTRY_KINDS.join(', ')}` }
  // A domain as it is written in the file is that domain, whatever a pasted line would be taken for.
  const read = readEntryLine(kind === 'everyone' ? 'everyone' : value, false, (kind || undefined) as EntryKind | undefined)
  if ('error' in read) return read
  const until = expires ? new Date(expires) : null
  if (until && Number.isNaN(until.getTime())) return { error: `“${expires.slice(0, 40)}” is no date; write it as 2026-12-31` }
  if (note.length > 500) return { error: 'the note is longer than 500 letters' }
  return { ...read, ...(note ? { note } : {}), ...(until ? { expires: until.toISOString() } : {}) }
}
