import { and, asc, eq, gt, isNull } from 'drizzle-orm'
import { MOST_LINES, writtenEntry, type EntryText } from '#core'
import { currentList } from '../access/list-access'
import type { Asker } from '../access/roles'
import { db } from '../db/client'
import { entries } from '../db/schema'
import { csvRows } from '../platform/csv'
import { invalid } from '../platform/problem'
import type { Done } from './apply'
import { csvEntriesElsewhere } from './on-threads'
import { addRead, type Added } from './list-entries'
import { entryOf } from './rows'

const COLUMNS = ['kind', 'value', 'note', 'expires', 'added', 'by'] as const
const ROWS_AT_ONCE = 2000

/** All entries of a list, piece by piece: as CSV (RFC 4180), or as plain lines that are read as the same entries. */
export async function* entriesFile(asker: Asker, id: string, as: 'csv' | 'lines'): AsyncGenerator<string> {
  await currentList(asker, id)
  if (as === 'csv') yield csvRows([COLUMNS])
  for (let after = 0, more = true; more;) {
    const rows = await db()
      .select()
      .from(entries)
      .where(and(eq(entries.listId, id), isNull(entries.toVersion), gt(entries.row, after)))
      .orderBy(asc(entries.row))
      .limit(ROWS_AT_ONCE)
    more = rows.length === ROWS_AT_ONCE
    after = rows.at(-1)?.row ?? after
    const some = rows.map(entryOf)
    yield as === 'csv'
      ? csvRows(some.map(e => [e.kind, e.value, e.note ?? '', e.expires ?? '', e.addedAt ?? '', e.addedBy ?? '']))
      : some.map(e => `${lineOf(e)}\r\n`).join('')
  }
}

// An entry that no line can express is written as a comment; the CSV export has it.
function lineOf(entry: EntryText): string {
  return writtenEntry(entry) ?? `# ${entry.kind}: ${entry.value.replace(/[\r\n]/g, ' ')}`
}

/** Adds the entries of a CSV file: a column value, and kind, note and expires where wanted. Of what is wrong the lines come back. */
export async function addFile(asker: Asker, id: string, text: string): Promise<Added & Done> {
  await currentList(asker, id)
  const read = await csvEntriesElsewhere({ text, most: MOST_LINES })
  if (!read)
    throw invalid('The first line has to name the columns: value, and kind, note and expires where wanted.', { text: 'No header.' })
  if (read.count > MOST_LINES)
    throw invalid(`That is ${read.count} lines; at most ${MOST_LINES} are read at once.`, { text: 'Too many lines.' })
  return addRead(asker, id, read, {})
}
