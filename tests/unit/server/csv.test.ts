// Somebody opens an export in a spreadsheet: a cell that it runs reads their other files, and a cell that is altered comes back wrong.
import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { csvRows, harmlessCell, readCsv } from '../../../server/platform/csv'

// OWASP, “CSV Injection”: = + - @, tab, CR, LF and the full-width forms begin a formula; separators within a cell begin a cell.
const BEFORE = ['', '\r', '\n', '\r\n', ' ', '\u00A0', '\u200B', '\uFEFF', '\u00AD', '\u3164', '\u{E0020}', '\t', ' \u200B\t']
const SIGNS = ['=', '+', '-', '@', '\uFF1D', '\uFF0B', '\uFF0D', '\uFF20', '\uFE66', '\uFE62', '\uFE63', '\uFE6B']

describe('a cell that leaves', () => {
  it.each(BEFORE.map(b => [JSON.stringify(b), b]))('is text where a formula stands behind %s', (_, before) => {
    for (const sign of SIGNS) {
      expect(harmlessCell(`${before}${sign}1+1`)).toMatch(/^'/)
      expect(harmlessCell(`note;${before}${sign}1+1`)).toMatch(/^note;'/)
    }
  })
  it('is text where it begins with a tab or a line break', () => {
    expect(['\tx', '\rx', '\nx'].map(harmlessCell)).toEqual(['\'\tx', '\'\rx', '\'\nx'])
  })
  it('stays as it is where nothing of it is a formula', () => {
    const plain = ['', 'x', 'a-b', 'a = b', 'x, -1', '12', 'name@domain', '😀=1', 'O’Hara', '“-”']
    expect(plain.map(harmlessCell)).toEqual(plain)
  })
  const cell = fc.string({ unit: fc.constantFrom(...BEFORE, ...SIGNS, '\'', '"', ',', ';', 'a', 'é', '😀', '\n'), maxLength: 12 })
  it('is read again as it was, with whatever stands around it', () => {
    fc.assert(fc.property(fc.array(fc.tuple(cell, cell), { minLength: 1, maxLength: 4 }), (rows) => {
      const text = csvRows([['one', 'two'], ...rows])
      const read = readCsv(text).rows.map(({ cells }) => [cells.one, cells.two])
      // A row without anything in it is no row.
      expect(read).toEqual(rows.filter(([one, two]) => one || two))
    }), { numRuns: 1000 })
  })
  it('no way of splitting it leaves a formula first', () => {
    fc.assert(fc.property(cell, (text) => {
      for (const part of harmlessCell(text).split(/[;\t\r\n]/))
        expect(part).not.toMatch(/^[\s\u200B\u00AD\u3164]*[=+\-@\uFF1D\uFF0B\uFF0D\uFF20]/)
    }), { numRuns: 1000 })
  })
})
