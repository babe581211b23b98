import { Problem } from './problem'

/** Where a page ended, by which the next one begins: what it is ordered by, and the id. */
export type Cursor = [at: number, id: number]

/** A cursor as callers are given it. */
export function writtenCursor(cursor: Cursor): string {
  return Buffer.from(JSON.stringify(cursor)).toString('base64url')
}

/**
 * A cursor as it was given out.
 * @param isPlace whether something can stand there
 * @throws 400 where it is none that was given out
 */
export function readCursor(text: string, isPlace: (at: number) => boolean = () => true): Cursor {
  const [at, id] = numbersIn(text) ?? []
  if (at === undefined || id === undefined || !isPlace(at))
    throw new Problem(400, 'Not understood', 'This cursor is not valid. Start again with the first page.')
  return [at, id]
}

function numbersIn(text: string): number[] | null {
  try {
    const read: unknown = JSON.parse(Buffer.from(text, 'base64url').toString())
    return Array.isArray(read) && read.every(n => Number.isSafeInteger(n)) ? (read as number[]) : null
  }
  catch {
    return null
  }
}
