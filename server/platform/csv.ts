import { parse } from 'csv-parse/sync'
import { stringify } from 'csv-stringify/sync'

// What a spreadsheet takes for the beginning of a formula, also in full width (U+FF1D and its kin) and as small forms. The apostrophe
// is among them: one that somebody wrote is read again as theirs.
const FORMULA = /['=+\-@\uFF1D\uFF0B\uFF0D\uFF20\uFE66\uFE62\uFE63\uFE6B]/
// What may precede it: blanks, controls, and characters without a glyph (also those of U+E0000 to U+E03FF, by halves).
const UNSEEN = /[\uDC00-\uDFFF\s\p{Cc}\p{Cf}\p{Default_Ignorable_Code_Point}\uDB40]/u
// Where another cell begins for a spreadsheet that splits at something else than commas.
const SPLIT = /[;\t\r\n]/

/** At which places of a text the next character that is seen begins a formula; one place more than the text has characters. */
function formulaAhead(text: string): boolean[] {
  const ahead = Array.from({ length: text.length + 1 }, () => false)
  // From the end on: then each place is looked at once.
  for (let i = text.length - 1; i >= 0; i--) ahead[i] = FORMULA.test(text[i]!) || (ahead[i + 1]! && UNSEEN.test(text[i]!))
  return ahead
}

const beginsCell = (text: string, i: number) => i === 0 || SPLIT.test(text[i - 1]!)
// A cell that begins with a tab or a line break is a formula's beginning of its own for some.
const beginsOdd = (text: string, i: number) => i < 2 && SPLIT.test(text[i] ?? '')

/**
 * A cell that no spreadsheet runs: an apostrophe, by which it shows as text, before whatever begins a formula, also behind a
 * semicolon, a tab or a line break within the cell. `readCell` takes the apostrophes away again.
 */
export function harmlessCell(text: string): string {
  const ahead = formulaAhead(text)
  const guarded = (i: number) => beginsCell(text, i) && (ahead[i] || (i === 0 && beginsOdd(text, 0)))
  return text.replace(/[^]/g, (letter, i: number) => (guarded(i) ? `'${letter}` : letter))
}

/** A cell as it was before `harmlessCell`. */
export function readCell(text: string): string {
  const ahead = formulaAhead(text)
  const isGuard = (i: number) => beginsCell(text, i) && (ahead[i + 1] || (i === 0 && beginsOdd(text, 1)))
  return text.replace(/'/g, (letter, i: number) => (isGuard(i) ? '' : letter))
}

/** Rows as CSV (RFC 4180); what a spreadsheet would run is made harmless. */
export function csvRows(rows: readonly (readonly string[])[]): string {
  // Quotes keep the blanks around a cell.
  return stringify(rows.map(row => row.map(harmlessCell)), { record_delimiter: 'windows', quoted_match: /^\s|\s$/ })
}

/** A row of a CSV file by the names of its columns, in lower case, and the line on which it ends. */
export interface CsvRow {
  line: number
  cells: Record<string, string>
}

/** Begins why a text is no CSV: of an error that comes from a thread, only its message is left. */
export const NOT_CSV = 'This is not a valid CSV file'

/** Why a text is no CSV. */
export class NoCsv extends Error {}

/** Reads CSV (RFC 4180) whose first line names its columns; in lower case. @throws NoCsv where it is none */
export function readCsv(text: string): { header: string[], rows: CsvRow[] } {
  let cells: { record: string[], info: { lines: number } }[]
  try {
    const options = { bom: true, info: true, relax_column_count: true, skip_empty_lines: true, trim: true, max_record_size: 100_000 }
    cells = parse(text, options) as unknown as typeof cells
  }
  catch (error) {
    throw new NoCsv(`${NOT_CSV}: ${error instanceof Error ? error.message : String(error)}.`)
  }
  const header = (cells[0]?.record ?? []).map(c => readCell(c).trim().toLowerCase())
  const named = (record: string[]) => Object.fromEntries(header.map((name, i) => [name, readCell(record[i] ?? '')]))
  // Spreadsheets write rows of nothing but commas below what somebody deleted.
  const rows = cells.slice(1).filter(({ record }) => record.some(c => c !== ''))
  return { header, rows: rows.map(({ record, info }) => ({ line: info.lines, cells: named(record) })) }
}
