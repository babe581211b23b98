import { addressesIn, cellsOf, withoutUnseen } from './cells'
import { entryKey, entryKindNamed, entryKindOf, readEntryLine, type EntryError, type EntryKind, type EntryText } from './index'

/** A line that says nothing that could be added, with what is wrong. */
export interface WrongLine {
  line: number
  text: string
  error: string
}

export interface ReadLines {
  good: EntryText[]
  /** Of each of them the first line on which it stands. */
  at: number[]
  /** Lines of which only a part is an entry. */
  partly: { line: number, text: string }[]
  /** Lines that say again what an earlier one said. */
  twice: { line: number, text: string, first: number }[]
  wrong: WrongLine[]
  /** How many lines there are. */
  count: number
}

/** More lines than this are not read at once. */
export const MAX_LINES = 100_000

/** Ends of lines, of any system. */
const LINE_END = /\r\n?|[\n\u2028\u2029]/

/** Where the comment of a line begins: a # at its beginning or behind a blank. The length of the line where it has none. */
function commentAt(line: string): number {
  const at = line.search(/(?<!\S)#/)
  return at < 0 ? line.length : at
}

/** What is read of one value. */
interface Piece {
  text: string
  read: EntryText | EntryError
  /** What it was taken out of, where not all of that is an entry. */
  of?: string
}

/** Whether the value of a table’s row is an entry, and no name, number or date beside one. */
function isEntryCell(cell: string, isFirst: boolean): boolean {
  return cell.includes('@') || (isFirst && (/\.\p{L}[^.]*$/u.test(cell) || cell.includes('/')))
}

const isRead = <T extends { read: EntryText | EntryError }>(piece: T) => !('error' in piece.read)

function within(text: string): Piece[] {
  return addressesIn(text).map(address => ({ text: address, read: readEntryLine(address), of: text })).filter(isRead)
}

function piecesOf(line: string, below: boolean): Piece[] {
  const { cells, isRow } = cellsOf(line)
  const filled = cells.map(c => c.trim()).filter(Boolean)
  const read = filled.map((text): Piece => ({ text, read: readEntryLine(text, below) }))
  if (isRow) {
    // Entries that only a comma parts, without a blank; else what is beside one is a name, a number or a date.
    const all = read.every(piece => isRead(piece) && isEntryCell(piece.text, true))
    const found = read.filter((piece, i) => all || (isRead(piece) && isEntryCell(piece.text, i === 0)))
    if (found.length) return found.map(piece => (found.length < read.length ? { ...piece, of: line } : piece))
    const inside = within(line)
    return inside.length ? inside : [{ text: line, read: readEntryLine(line, below) }]
  }
  const inside = read.map(piece => (isRead(piece) ? [] : within(piece.text)))
  // Around an address in running text the commas are those of a sentence.
  const isText = inside.some(found => found.length)
  return read.flatMap((piece, i) => (inside[i]!.length ? inside[i]! : isText && !isRead(piece) ? [] : [piece]))
}

/** What is between several entries on a line whose kind is known. */
const BETWEEN = /(?<=\S)\s*[,;]\s+/

function namedPieces(line: string, below: boolean, as?: EntryKind): Piece[] {
  return line.split(BETWEEN).filter(Boolean).map(text => ({ text, read: readEntryLine(text, below, as) }))
}

function namesKind(line: string): boolean {
  const colon = line.indexOf(': ')
  return colon > 0 && entryKindNamed(line.slice(0, colon)) !== undefined
}

const shown = (text: string) => text.slice(0, 200)

/**
 * Reads lines as entries; of the same one twice the last counts. Several on one line are numbered as if each had its own. Values beside
 * an entry in a row of a table, and the words around an address in running text, are left out. Nothing is read where there are too many.
 */
export function readLines({ text, below, as }: { text: string, below: boolean, as?: EntryKind }): ReadLines {
  const lines = text.split(LINE_END)
  const none = { good: [], at: [], twice: [], wrong: [], partly: [] }
  if (lines.length > MAX_LINES) return { ...none, count: lines.length }
  const out: Pick<ReadLines, 'twice' | 'wrong' | 'partly'> = { twice: [], wrong: [], partly: [] }
  const good = new Map<string, EntryText>()
  const at = new Map<string, number>()
  let count = 0
  for (const line of lines) {
    const bare = withoutUnseen(line.slice(0, commentAt(line)).trim())
    const pieces = as === undefined && !namesKind(bare) ? piecesOf(bare, below) : namedPieces(bare, below, as)
    if (!pieces.length) count++
    for (const { text: piece, read, of } of pieces) {
      count++
      if ('error' in read) {
        out.wrong.push({ line: count, text: shown(piece), error: read.error })
        continue
      }
      const key = entryKey(read)
      const first = at.get(key)
      if (first !== undefined) out.twice.push({ line: count, text: shown(piece), first })
      else {
        at.set(key, count)
        if (of !== undefined) out.partly.push({ line: count, text: shown(of) })
      }
      good.set(key, read)
    }
  }
  if (count > MAX_LINES) return { ...none, count }
  return { good: [...good.values()], at: [...at.values()], ...out, count }
}

/** An entry as a line without the name of its kind that is read as the same entry; null where there is none. */
export function plainEntry(entry: EntryText): string | null {
  const { kind, value } = entry
  const line = kind === 'domain' ? `@${value}` : kind === 'domainAndSubdomains' ? `*.${value}` : kind === 'everyone' ? 'everyone' : value
  return isReadAs(line, entry) ? line : null
}

/** An entry as a line that is read as the same entry, with the name of its kind where needed; null for words with a comma between. */
export function writtenEntry(entry: EntryText): string | null {
  const named = `${entryKindOf(entry.kind).line}: ${entry.value}`
  return plainEntry(entry) ?? (isReadAs(named, entry) ? named : null)
}

function isReadAs(line: string, entry: EntryText): boolean {
  const { good, wrong } = readLines({ text: line, below: false })
  return good.length === 1 && wrong.length === 0 && entryKey(good[0]!) === entryKey(entry)
}
