import {
  ENTRY_KINDS,
  entryKey,
  EntryTable,
  pasteReport,
  readEntryLine,
  readLines,
  type EntryTableData,
  type LineReport,
  type PolicyAround,
  type ReadLines,
  entryKindNamed,
  entryKindOf,
} from '#core'
import type { EntryPut } from '#core/change'
import { readCsv } from '../platform/csv'

/** What was read of a paste, with its entries as JSON in pieces. */
export interface InPieces {
  rest: Omit<ReadLines, 'good' | 'at'>
  /** Each `[good, at]` of some of the entries. */
  pieces: string[]
}

const PIECE = 2000

/**
 * What was pasted into a list, read off the thread that serves people. That thread would be kept for a third of a second by a hundred
 * thousand objects that are handed over at once; text it takes in no time, and reads piece by piece.
 */
export default function lines({ text, below, as }: Parameters<typeof readLines>[0]): InPieces {
  const { good, at, ...rest } = readLines({ text, below, as })
  const pieces = Array.from({ length: Math.ceil(good.length / PIECE) }, (_, n) => {
    const [from, to] = [n * PIECE, (n + 1) * PIECE]
    return JSON.stringify([good.slice(from, to), at.slice(from, to)])
  })
  return { rest, pieces }
}

/** Entries as they were read, each perhaps with a note and an expiry of its own. */
export type ReadEntries = Omit<ReadLines, 'good'> & { good: EntryPut[] }

/** What is to be reported of. */
export interface ToReport {
  policy: PolicyAround
  table: EntryTableData
  /** Number of the list in the policy. */
  list: number
  read: ReadEntries
}

/** What becomes of each line of a paste: see `pasteReport`. */
export function report({ policy, table, list, read }: ToReport): LineReport[] {
  return pasteReport(policy, new EntryTable(table), list, read)
}

/** The entries of a CSV file; null where its header does not name them. @throws where it is no CSV */
export function csvEntries({ text, most }: { text: string, most: number }): ReadEntries | null {
  const { header, rows } = readCsv(text)
  if (!header.includes('value')) return null
  if (rows.length > most) return { good: [], at: [], wrong: [], twice: [], partly: [], count: rows.length }
  const good = new Map<string, { entry: EntryPut, line: number }>()
  const read: Pick<ReadLines, 'wrong' | 'twice' | 'partly'> = { wrong: [], twice: [], partly: [] }
  for (const { line, cells } of rows) {
    const one = entryIn(cells)
    const shown = (cells.value ?? '').slice(0, 200)
    if ('error' in one) {
      read.wrong.push({ line, text: shown, error: one.error })
      continue
    }
    const first = good.get(entryKey(one))
    if (first) read.twice.push({ line, text: shown, first: first.line })
    else good.set(entryKey(one), { entry: one, line })
  }
  const all = [...good.values()]
  return { ...read, good: all.map(g => g.entry), at: all.map(g => g.line), count: rows.length }
}

function entryIn({ value = '', kind = '', note = '', expires = '' }: Record<string, string>): EntryPut | { error: string } {
  if (!value && kind !== 'everyone') return { error: 'enter the value' }
  const asked = entryKindNamed(kind)
  if (kind && !asked)
    return { error: `“${kind.slice(0, 40)}” is not a type of entry; use ${ENTRY_KINDS.map(k => entryKindOf(k).line).join(', ')}` }
  // A domain as it is written in the file is that domain, whatever a pasted line would be taken for.
  const read = readEntryLine(kind === 'everyone' ? 'everyone' : value, false, asked)
  if ('error' in read) return read
  const until = expires ? new Date(expires) : null
  if (until && Number.isNaN(until.getTime())) return { error: `“${expires.slice(0, 40)}” is not a date; write it as 2026-12-31` }
  if (note.length > 500) return { error: 'the note is longer than 500 characters' }
  return { ...read, ...(note ? { note } : {}), ...(until ? { expires: until.toISOString() } : {}) }
}
