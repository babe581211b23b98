import { entryKey, entryKindOf, readEntryLine, type EntryKind, type EntryText } from './index'

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
  /** Lines that say again what an earlier one said. */
  twice: { line: number, text: string, first: number }[]
  wrong: WrongLine[]
  /** How many lines there are. */
  count: number
}

/** More lines than this are not read at once. */
export const MAX_LINES = 100_000

/** Ends of lines, of any system, and what stands between several entries on one line. */
const BETWEEN = /\r\n?|[\n\u2028\u2029]|(?<=\S)\s*[,;]\s+/

/** Where the comment of a line begins: a # at its beginning or behind a blank. The length of the line where it has none. */
function commentAt(line: string): number {
  const at = line.search(/(?<!\S)#/)
  return at < 0 ? line.length : at
}

/** Reads lines as entries; of the same one twice the last counts. Nothing is read where there are too many. */
export function readLines({ text, below, as }: { text: string, below: boolean, as?: EntryKind }): ReadLines {
  const lines = text.split(BETWEEN)
  if (lines.length > MAX_LINES) return { good: [], at: [], twice: [], wrong: [], count: lines.length }
  const good = new Map<string, EntryText>()
  const at = new Map<string, number>()
  const twice: ReadLines['twice'] = []
  const wrong: WrongLine[] = []
  lines.forEach((line, i) => {
    const bare = line.slice(0, commentAt(line)).trim()
    if (!bare) return
    const read = readEntryLine(bare, below, as)
    if ('error' in read) wrong.push({ line: i + 1, text: line.trim().slice(0, 200), error: read.error })
    else {
      const key = entryKey(read)
      const first = at.get(key)
      if (first !== undefined) twice.push({ line: i + 1, text: line.trim().slice(0, 200), first })
      else at.set(key, i + 1)
      good.set(key, read)
    }
  })
  return { good: [...good.values()], at: [...at.values()], twice, wrong, count: lines.length }
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
