import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { findKey, neededWords, phraseKeys, typedWords, viewOf, viewText, WordCollector, type NeededWords } from '#core/text'

function wordsOf(...texts: string[]): WordCollector {
  const collector = new WordCollector()
  for (const text of texts) collector.add(text)
  return collector
}

/** Whether an archive finds a text by the words that a phrase needs. */
function isFound({ words, isOdd }: WordCollector, needed: NeededWords | null): boolean {
  if (!needed || isOdd) return true
  return needed.words.every(w => words.has(w)) && needed.beginnings.every(b => [...words].some(w => w.startsWith(b)))
}

// Letters that become others, signs that become letters, marks, letters nobody sees, scripts in which words stand close.
const PIECES = [
  'fee', 'Fee', 'FEE', 're', 'lease', 'a', 'I', '0', '12', ' ', ' ', '\n', '\u00a0', '-', '.', ',', '’', '…', '/', '™', '№', 'ⓐ', '½', '²',
  'é', 'e\u0301', '\u0301', 'ü', 'ß', 'İ', 'ﬂ', 'ﬁ', 'Ⅳ', '\u00ad', '\u200b', '\u3164', '\uffa0', '手', '東京', 'か', 'が', 'か\u3099', 'カ', 'ｶﾞ', 'ﾞ',
  'ー', '゠', '㌔', '㎏', '℃', '한', '글', 'हि', 'न्दी', '𝐚', '😀', 'ﷺ', 'x'.repeat(70), '\ud800',
]
const text = fc.array(fc.constantFrom(...PIECES), { maxLength: 14 }).map(p => p.join(''))
const view = fc.constantFrom('plain' as const, 'bare' as const)

describe('the words by which an archive is asked: mail that a phrase stands in would not be counted', () => {
  it('are in every text in which the phrase stands', () => {
    let stood = 0
    fc.assert(
      fc.property(fc.tuple(text, text, text), fc.boolean(), view, fc.nat(30), ([before, inner, after], whole, by, cut) => {
        const source = `${before}${inner}${after}`
        // Also a phrase that is a part of the text, wherever that begins and ends.
        const phrase = cut < 15 ? inner : source.slice(cut % source.length, cut)
        if (!phrase.trim()) return
        const stands = phraseKeys(phrase, by).some(key => findKey(shown(source, by), viewText(shown(source, by)), key, whole, 1).length)
        if (!stands) return
        stood++
        expect(isFound(wordsOf(source), neededWords(phrase, by, whole)), JSON.stringify({ source, phrase, whole, by })).toBe(true)
      }),
      { numRuns: 12000, seed: 28 },
    )
    // Otherwise it would say little.
    expect(stood).toBeGreaterThan(2500)
  })

  const shown = (source: string, by: 'plain' | 'bare') => viewOf(source, by)

  const [WHOLE, PARTS] = [true, false]
  it.each<[string, [string, 'plain' | 'bare' | 'obfuscated', boolean], NeededWords | null]>([
    ['whole words', ['Release  fee', 'plain', WHOLE], { words: ['release', 'fee'], beginnings: [] }],
    ['parts of words: the first may go on before, the last behind', ['lease of fee', 'plain', PARTS], { words: ['of'], beginnings: ['fee'] }],
    ['a sign at its end closes the word', ['“lease fee”', 'plain', PARTS], { words: ['lease', 'fee'], beginnings: [] }],
    ['without marks', ['Gebühr', 'bare', WHOLE], { words: ['gebuhr'], beginnings: [] }],
    ['ideographs one by one', ['東京', 'plain', PARTS], { words: ['東', '京'], beginnings: [] }],
    ['part of one word may stand anywhere', ['lease', 'plain', PARTS], null],
    ['behind obfuscated spelling', ['release', 'obfuscated', WHOLE], null],
    ['signs alone', ['$$$', 'plain', WHOLE], null],
  ])('%s', (_, asked, needed) => expect(neededWords(...asked)).toEqual(needed))

  it('are bounded: of a text with more it is known that they do not say all, and the rest is found', () => {
    const collector = new WordCollector(20)
    collector.add('one two three four five six seven eight')
    expect([...collector.words].join('').length).toBeLessThanOrEqual(20)
    expect(collector.isOdd).toBe(true)
    const few = new WordCollector(20)
    few.add('one two one two one two one two one two')
    expect([[...few.words], few.isOdd]).toEqual([['one', 'two'], false])
  })

  it('of a long word are its beginning, and of what is typed the same words', () => {
    const long = 'q'.repeat(500)
    expect(isFound(wordsOf(`x ${long} y`), neededWords(long, 'plain', true))).toBe(true)
    expect([...wordsOf(long).words][0]!.length).toBeLessThan(100)
    expect(typedWords('Gebühr a@b.example')).toEqual(['gebühr', 'a', 'b', 'example'])
  })

  it('take time that grows with the length alone, whatever is written', () => {
    for (const piece of ['e\u0301', '™', '東', 'a\u3164', 'é ']) {
      const times = [20_000, 80_000].map((count) => {
        const source = piece.repeat(count)
        const start = performance.now()
        wordsOf(source)
        return performance.now() - start
      })
      expect(times[1]! / Math.max(times[0]!, 5), piece).toBeLessThan(40)
    }
  })
})
