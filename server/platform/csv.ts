import { parse } from 'csv-parse/sync'
import { stringify } from 'csv-stringify/sync'

/**
 * A cell that a spreadsheet would run as a formula is written behind an apostrophe, by which it shows as text; read again, the
 * apostrophe goes.
 */
export function harmlessCell(text: string): string {
  return /^['=+\-@\t\r]/.test(text) ? `'${text}` : text
}

function readCell(text: string): string {
  return /^'['=+\-@\t\r]/.test(text) ? text.slice(1) : text
}

/** Rows as CSV (RFC 4180); what a spreadsheet would run is made harmless. */
export function csvRows(rows: readonly (readonly string[])[]): string {
  return stringify(rows.map(row => row.map(harmlessCell)), { record_delimiter: 'windows' })
}

/** A row of a CSV file by the names of its columns, in lower case, and the line on which it ends. */
export interface CsvRow {
  line: number
  cells: Record<string, string>
}

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
    throw new NoCsv(`This is not CSV: ${error instanceof Error ? error.message : String(error)}.`)
  }
  const header = (cells[0]?.record ?? []).map(c => readCell(c).trim().toLowerCase())
  const named = (record: string[]) => Object.fromEntries(header.map((name, i) => [name, readCell(record[i] ?? '')]))
  return { header, rows: cells.slice(1).map(({ record, info }) => ({ line: info.lines, cells: named(record) })) }
}
