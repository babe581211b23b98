import { and, asc, eq, gt, isNull } from 'drizzle-orm'
import { MAX_LINES, writtenEntry, type EntryText, entryKindOf } from '#core'
import { numberWords } from '#core/wording'
import { currentList } from '../access/list-access'
import type { Actor } from '../access/roles'
import { db } from '../db/client'
import { entries } from '../db/schema'
import { csvRows } from '../platform/csv'
import { invalid } from '../platform/problem'
import { ENTRY_PLACE, placeOf } from './entry-place'
import type { Done } from './apply'
import { csvEntriesOnThread } from './on-threads'
import { addRead, type Added } from './list-entries'
import { entryOf } from './rows'

const COLUMNS = ['kind', 'value', 'note', 'expires', 'added', 'by'] as const
const ROW_BATCH_SIZE = 2000

/** All entries of a list, piece by piece: as CSV (RFC 4180), or as plain lines that are read as the same entries. */
export async function* entriesFile(actor: Actor, id: string, as: 'csv' | 'lines'): AsyncGenerator<string> {
  await currentList(actor, id)
  if (as === 'csv') yield csvRows([COLUMNS])
  for (let after = 0, more = true; more;) {
    const rows = await db()
      .select()
      .from(entries)
      .where(and(eq(entries.listId, id), isNull(entries.toVersion), gt(ENTRY_PLACE, after)))
      .orderBy(asc(ENTRY_PLACE))
      .limit(ROW_BATCH_SIZE)
    more = rows.length === ROW_BATCH_SIZE
    after = rows.length ? placeOf(rows.at(-1)!) : after
    const some = rows.map(entryOf)
    yield as === 'csv'
      ? csvRows(some.map(e => [entryKindOf(e.kind).line, e.value, e.note ?? '', e.expires ?? '', e.addedAt ?? '', e.addedBy ?? '']))
      : some.map(e => `${lineOf(e)}\r\n`).join('')
  }
}

// An entry that no line can express is written as a comment; the CSV export has it.
function lineOf(entry: EntryText): string {
  return writtenEntry(entry) ?? `# ${entryKindOf(entry.kind).line}: ${entry.value.replace(/[\r\n]/g, ' ')}`
}

/** Adds the entries of a CSV file: a column value, and kind, note and expires where wanted. Of what is wrong the lines come back. */
export async function addFile(actor: Actor, id: string, text: string): Promise<Added & Done> {
  await currentList(actor, id)
  const read = await csvEntriesOnThread({ text, most: MAX_LINES })
  if (!read)
    throw invalid('The first line must be the header: value and, if needed, kind, note and expires.', {
      text: 'The header line is missing.',
    })
  if (read.count > MAX_LINES)
    throw invalid(`The file has ${numberWords(read.count)} lines; at most ${numberWords(MAX_LINES)} can be imported at once.`, {
      text: 'The file has too many lines.',
    })
  return addRead(actor, id, read, {})
}
