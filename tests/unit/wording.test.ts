// Numbers, dates and plurals: a figure that reads wrongly is acted on wrongly.
import { describe, expect, it } from 'vitest'
import { outcomeWords } from '#core/words'
import { counted, dayWords, instantWords, longDate, numberWords, oneOf, percentWords, plural, shortDate, sizeWords } from '#core/wording'

describe('numbers (grouping and percent as Unicode CLDR has them for en-GB, from memory)', () => {
  it.each([
    [0, '0'],
    [999, '999'],
    [1284, '1,284'],
    [1_000_000, '1,000,000'],
    [2.5, '2.5'],
  ])('%d reads “%s”', (n, words) => expect(numberWords(n)).toBe(words))
  it.each([
    [0, '0%'],
    [0.0004, 'under 0.1%'],
    [0.004, '0.4%'],
    [0.025, '2.5%'],
    [0.17, '17%'],
    [0.996, '100%'],
    [1, '100%'],
  ])('a share of %d reads “%s”', (share, words) => expect(percentWords(share)).toBe(words))
  it.each([
    [0, '0 bytes'],
    [1, '1 byte'],
    [1500, '1.5 kB'],
    [2_000_000, '2 MB'],
    [2_345_678, '2.345678 MB'],
  ])('%d bytes read “%s”', (bytes, words) => expect(sizeWords(bytes)).toBe(words))
})

describe('plurals: “1 entries” would be read as a fault', () => {
  it.each([
    [0, '0 messages'],
    [1, '1 message'],
    [2, '2 messages'],
    [1284, '1,284 messages'],
  ])('%d', (n, words) => expect(counted(n, 'message')).toBe(words))
  it('words that take no s are given', () => {
    expect([counted(1, 'entry', 'entries'), counted(2, 'entry', 'entries')]).toEqual(['1 entry', '2 entries'])
    expect([plural(1, 'was', 'were'), plural(0, 'was', 'were')]).toEqual(['was', 'were'])
  })
  it('rows are joined, and long ones say how many more there are', () => {
    expect([oneOf([]), oneOf(['a']), oneOf(['a', 'b']), oneOf(['a', 'b', 'c'], 'and')]).toEqual(['nothing', 'a', 'a or b', 'a, b and c'])
    expect(oneOf(['a', 'b', 'c', 'd', 'e'])).toBe('a, b, c or 2 others')
  })
})

describe('dates: one without its year is taken for this year’s', () => {
  const now = new Date(2026, 10, 29, 12, 0)
  const at = (...parts: [number, number, number, number, number]) => new Date(...parts).toISOString()
  it('in passing: today the time, this year the day, else with the year', () => {
    expect([at(2026, 10, 29, 9, 5), at(2026, 1, 3, 9, 5), at(2025, 10, 29, 9, 5)].map(iso => shortDate(iso, now))).toEqual(
      ['09:05', '3 Feb', '29 Nov 2025'],
    )
    expect([at(2026, 10, 29, 9, 5), at(2025, 11, 31, 23, 59)].map(iso => longDate(iso, now))).toEqual(
      ['29 November, 09:05', '31 December 2025, 23:59'],
    )
  })
  it('in logs and on paper always with the year, in the zone that is asked for', () => {
    const iso = '2026-12-31T23:30:00.000Z'
    expect([instantWords(iso, 'UTC'), instantWords(iso, 'Europe/Copenhagen'), dayWords(iso, 'America/St_Johns')]).toEqual(
      ['31 December 2026, 23:30', '1 January 2027, 00:30', '31 December 2026'],
    )
  })
})

describe('an allow entry on a message that is held: “allowed” would make its reader look in the inbox', () => {
  const reason = { outcome: { kind: 'protected' as const }, claim: { protect: ['spam' as const] } }
  const names = { quarantines: [{ id: 'general', name: 'General', general: true }], lists: [], phraseSets: [] }
  it.each([
    ['delivered', null, 'allowed'],
    ['held', { to: 'quarantine' as const, quarantine: 'general' }, 'allow entry matched, but it does not cover quarantine'],
    ['deleted', { to: 'bin' as const }, 'allow entry matched, but it does not cover deletion'],
    ['refused', { to: 'refuse' as const }, 'allow entry matched, but it does not cover refusal'],
  ])('%s', (_, stopped, words) => expect(outcomeWords(reason as never, names, stopped)).toBe(words))
})
