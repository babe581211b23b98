/** What is between several entries on one line. */
const SPACED = /(?<=\S)\s*[,;]\s+/

/** A line as a spreadsheet, a CSV file (RFC 4180) or a person writes several values on it. */
export interface Cells {
  cells: string[]
  /** It is a row of a table: beside an entry there are other values, such as a name or a date. */
  isRow: boolean
}

/**
 * Takes a line apart at its tabs; where it has none, at semicolons and commas that are not within quotes. Quotes around a cell go, and
 * doubled ones within it become one, as spreadsheets write them. One pass.
 */
export function cellsOf(line: string): Cells {
  const hasTab = line.includes('\t')
  if (!hasTab && !line.includes('"')) {
    const spaced = line.split(SPACED)
    const tight = spaced.some(cell => /[,;]./.test(cell))
    return { cells: tight ? line.split(/[,;]/) : spaced, isRow: tight }
  }
  const between = hasTab ? '\t' : ',;'
  const cells: string[] = []
  let cell = ''
  let isOpen = false
  let wasQuoted = false
  for (let i = 0; i < line.length; i++) {
    const c = line[i]!
    if (isOpen && c === '"' && line[i + 1] === '"') {
      cell += c
      i++
    }
    else if (isOpen && c === '"') {
      isOpen = false
      // A quoted local part (RFC 5321 4.1.2) keeps its quotes.
      if (line[i + 1] === '@') cell = `"${cell}"`
    }
    else if (!isOpen && c === '"' && cell.trim() === '') {
      cell = ''
      isOpen = wasQuoted = true
    }
    else if (!isOpen && between.includes(c)) {
      cells.push(cell)
      cell = ''
    }
    else cell += c
  }
  cells.push(cell)
  // A quote that nothing closes is none.
  if (isOpen) return { cells: line.replaceAll('"', '').split(hasTab ? '\t' : /[,;]/), isRow: true }
  return { cells, isRow: hasTab || wasQuoted }
}

/** What is not part of an address where it is not quoted (RFC 5322 3.2.3), and what running text puts around one. */
const OUTSIDE = /[\s<>()[\]{},;:"'|\\@]/
/** RFC 5321 4.5.3.1. */
const LONGEST_LOCAL = 64
const LONGEST_DOMAIN = 255

/** Addresses within running text, such as a line of a page that was copied. Each @ costs no more than the longest address. */
export function addressesIn(text: string): string[] {
  const out: string[] = []
  for (let at = text.indexOf('@'); at >= 0; at = text.indexOf('@', at + 1)) {
    let from = at
    while (from > 0 && at - from <= LONGEST_LOCAL && !OUTSIDE.test(text[from - 1]!)) from--
    let to = at + 1
    while (to < text.length && to - at <= LONGEST_DOMAIN && !OUTSIDE.test(text[to]!)) to++
    const domain = text.slice(at + 1, to).replace(/[.!?]{1,3}$/, '')
    if (from < at && domain.includes('.')) out.push(`${text.slice(from, at)}@${domain}`)
  }
  return out
}

/** What pages put around a word, and nobody sees: zero width space, word joiner, byte order mark. */
const UNSEEN = '\u200B\u2060\uFEFF'

/** Without invisible characters at its ends. */
export function withoutUnseen(text: string): string {
  let [from, to] = [0, text.length]
  while (from < to && UNSEEN.includes(text[from]!)) from++
  while (to > from && UNSEEN.includes(text[to - 1]!)) to--
  return text.slice(from, to)
}
