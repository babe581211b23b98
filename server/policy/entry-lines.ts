import { entryKey, readEntryLine, type EntryKind } from '#core'

/** A line that says nothing that could be added, with what is wrong. */
export interface WrongLine {
  line: number
  text: string
  error: string
}

export interface ReadLines {
  good: { kind: EntryKind, value: string }[]
  wrong: WrongLine[]
  /** How many lines there are. */
  count: number
}

/** More lines than this are not read at once. */
export const MOST_LINES = 100_000

/** Reads lines as entries; of the same one twice the last counts. Nothing is read where there are too many. */
export function readLines({ text, below, as }: { text: string, below: boolean, as?: EntryKind }): ReadLines {
  const lines = text.split(/\r?\n|(?<=\S)\s*[,;]\s+/)
  if (lines.length > MOST_LINES) return { good: [], wrong: [], count: lines.length }
  const good = new Map<string, { kind: EntryKind, value: string }>()
  const wrong: WrongLine[] = []
  lines.forEach((line, i) => {
    const bare = line.replace(/(?:^|\s)#.*$/, '').trim()
    if (!bare) return
    const read = readEntryLine(bare, below, as)
    if ('error' in read) wrong.push({ line: i + 1, text: line.trim().slice(0, 200), error: read.error })
    else good.set(entryKey(read), read)
  })
  return { good: [...good.values()], wrong, count: lines.length }
}
