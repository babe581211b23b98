import { readFileSync } from 'node:fs'
import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import {
  findKey,
  isWholeWords,
  phraseKeys,
  PhraseIndex,
  scanText,
  sourceSpan,
  splitPhrases,
  viewOf,
  viewText,
  ViewBuffer,
  type ViewName,
} from '#core/text'
import { compileKernel } from '../../../scripts/lib/kernel.mjs'

const spans = (text: string, phrase: string, whole = true, view: ViewName = 'plain') =>
  phraseKeys(phrase, view).flatMap((key) => {
    const v = viewOf(text, key.form)
    return findKey(v, viewText(v), key, whole, 50)
  })
const find = (text: string, phrase: string, whole = true, view: ViewName = 'plain') => [
  ...new Set(spans(text, phrase, whole, view).map(s => text.slice(s.start, s.end))),
]

describe('phrases: a keyword rule would miss what it was made for, or catch what it was not', () => {
  // common practice, no source: a phrase ignores case
  it.each([
    ['Your RELEASE FEE is due', 'release fee', ['RELEASE FEE']],
    ['the release\r\n\t fee', 'release fee', ['release\r\n\t fee']],
    ['the release\u00A0fee', 'release fee', ['release\u00A0fee']],
    ['ＲＥＬＥＡＳＥ fee', 'release fee', ['ＲＥＬＥＡＳＥ fee']],
    ['Straße und STRASSE', 'strasse', ['Straße', 'STRASSE']],
    ['ΟΔΟΣ οδος', 'οδός'.normalize('NFC').replace('ό', 'ο'), ['ΟΔΟΣ', 'οδος']],
    ['cafe\u0301', 'café', ['cafe\u0301']],
    ['what? [sic] (50% off.)', '[sic]', ['[sic]']],
    ['is this it? yes', 'it?', ['it?']],
    ['a.b', 'a*b', []],
  ])('%j has %j', (text, phrase, found) => expect(find(text, phrase)).toEqual(found))

  it('sees through obfuscated spellings, and marks what stands in the text', () => {
    expect(find('reIease fee', 'release fee', true, 'obfuscated')).toEqual(['reIease fee']) // capital i
    expect(find('rеlеаse fee', 'release fee', true, 'obfuscated')).toEqual(['rеlеаse fee']) // Cyrillic е, а
    expect(find('re\u200Bl\u00ADease fee', 'release fee', true, 'obfuscated')).toEqual(['re\u200Bl\u00ADease fee'])
    expect(find('your r e l e a s e  f e e now', 'release fee', true, 'obfuscated')).toEqual(['r e l e a s e  f e e'])
    expect(find('r.e.l.e.a.s.e f e e', 'release', true, 'obfuscated')).toEqual(['r.e.l.e.a.s.e'])
    expect(find('m o o n  l e v y', 'moon levy', true, 'obfuscated')).toEqual(['m o o n  l e v y'])
    expect(find('payrnent', 'payment', true, 'obfuscated')).toEqual(['payrnent'])
    expect(find('r3l3ase f33', 'release fee', true, 'obfuscated')).toEqual(['r3l3ase f33'])
    expect(find('𝐫𝐞𝐥𝐞𝐚𝐬𝐞 fee', 'release fee', true, 'obfuscated')).toEqual(['𝐫𝐞𝐥𝐞𝐚𝐬𝐞 fee'])
    expect(find('coffee', 'ffee', true, 'obfuscated')).toEqual([])
    expect(find('co\u200Bffee', 'ffee', true, 'obfuscated')).toEqual([])
    expect(find('réléase', 'release', true, 'bare')).toEqual(['réléase'])
    expect(find('réléase', 'release', true, 'plain')).toEqual([])
  })

  it('takes whole words where whole words are asked for', () => {
    expect(spans('coffee fee-free fees fee', 'fee').map(s => s.start)).toEqual([7, 21])
    expect(spans('coffee fees', 'fee', false).map(s => s.start)).toEqual([3, 7])
    expect(find('cafe\u0301', 'cafe')).toEqual([])
    expect(find('price5', 'price')).toEqual([])
    expect(find('運賃の請求', '請求')).toEqual(['請求'])
  })

  it('does not match inside what one character became', () => {
    expect(find('ﬁne', 'ine', false)).toEqual([])
    expect(find('ß', 's', false)).toEqual([])
  })

  it('whatever is found stands at the offsets that are reported', () => {
    fc.assert(
      fc.property(
        fc.string({ unit: 'grapheme', maxLength: 60 }),
        fc.string({ unit: 'grapheme', minLength: 1, maxLength: 6 }),
        fc.string({ unit: 'grapheme', maxLength: 60 }),
        (before, phrase, after) => {
          const text = before + phrase + after
          for (const view of ['plain', 'bare', 'obfuscated'] as const)
            for (const key of phraseKeys(phrase, view)) {
              const v = viewOf(text, key.form)
              for (const span of findKey(v, viewText(v), key, false, 50)) {
                const again = viewText(viewOf(text.slice(span.start, span.end), key.form)).trim()
                expect(key.joinedOnly ? again.replaceAll(/[ .*,/|_-]/g, '') : again).toBe(key.key)
              }
            }
        },
      ),
      { seed: 1, numRuns: 2000 },
    )
  })

  // The peer is ICU's word break by Intl.Segmenter (UAX #29), on text of letters, digits and spaces.
  it('are ended by a sign of their own, as ICU has it: “$” finds “$100”, and nobody has to know where a price begins', async () => {
    const hits = (phrase: string, text: string) => {
      const [key] = phraseKeys(phrase, 'plain')
      const view = viewOf(text, 'plain')
      return findKey(view, viewText(view), key!, true, 9).map(s => text.slice(s.start, s.end))
    }
    expect(hits('$', 'pay $100 or US$5')).toEqual(['$', '$'])
    expect(hits('$1', 'pay $100')).toEqual([])
    expect(hits('100%', 'to 100%ige Sicherheit')).toEqual(['100%'])
    expect(hits('c++', 'c++11 and abc++')).toEqual(['c++'])
    const segments = [...new Intl.Segmenter('en', { granularity: 'word' }).segment('US$100')].map(s => s.segment)
    expect(segments).toContain('$')
    // Through obfuscated spellings a sign stands for a letter, and is none of its own.
    const [form] = phraseKeys('sh', 'obfuscated')
    const seen = viewOf('ca$h', form!.form)
    expect(findKey(seen, viewText(seen), form!, true, 9)).toEqual([])
  })
  it('agrees with ICU on where words begin and end', () => {
    const letters = fc.constantFrom('a', 'Z', 'é', 'ß', 'я', 'א', '7', ' ', '\n', '漢', 'ひ')
    const segmenter = new Intl.Segmenter('en', { granularity: 'word' })
    fc.assert(
      fc.property(fc.string({ unit: letters, minLength: 1, maxLength: 20 }), fc.nat(), fc.nat(), (text, a, b) => {
        const cuts = new Set([...segmenter.segment(text)].map(s => s.index).concat(text.length))
        const [start, end] = [a % text.length, (b % text.length) + 1]
        fc.pre(start < end && text.slice(start, end).trim() === text.slice(start, end))
        // ICU keeps runs of ideographs and kana together by dictionary; UAX #29 itself does not.
        fc.pre(!/[漢ひ]{2}/.test(text))
        expect(isWholeWords(text, start, end)).toBe(cuts.has(start) && cuts.has(end))
      }),
      { seed: 2, numRuns: 3000 },
    )
  })

  it('reads what people type: one per line, or separated by commas, quotes where a comma is meant', () => {
    expect(splitPhrases('release fee, handling fee\n\n "Smith, Jones" \nrelease fee')).toEqual([
      'release fee',
      'handling fee',
      'Smith, Jones',
    ])
    expect(splitPhrases(' , ,\n')).toEqual([])
  })
})

describe('the quick way to a view: a phrase would be missed, or marked in the wrong place, in long mail alone', () => {
  // One view that nobody reads, so that its way is the careful one; one with a buffer, so that it is the quick one.
  const same = (text: string) => {
    for (const form of ['plain', 'bare'] as const) {
      const [careful, quick] = [viewOf(text, form), viewOf(text, form, buffer)]
      if (viewText(quick) !== viewText(careful))
        throw new Error(
          `${form}: ${JSON.stringify(viewText(quick))} for ${JSON.stringify(viewText(careful))} of ${JSON.stringify(text)}`,
        )
      for (let i = 0; i <= careful.length; i++)
        if (quick.startOf(i) !== careful.startOf(i))
          throw new Error(
            `${form}: unit ${i} at ${quick.startOf(i)}, not ${careful.startOf(i)}, of ${JSON.stringify(text)}`,
          )
    }
  }
  const buffer = new ViewBuffer()
  const piece = fc.oneof(
    { weight: 6, arbitrary: fc.stringMatching(/^[ -~]{0,40}$/) },
    fc.constantFrom(
      ' ',
      '  ',
      '\r\n',
      '\n\n',
      '\t',
      '\u00A0',
      ' \u2003',
      'é',
      'e\u0301',
      'ﬁ',
      'ß',
      'İ',
      '😀',
      '\uD83D',
      '\u200B',
      '\u3000',
      '가',
      '\u1100\u1161',
      'ａ',
      'Straße',
      '\0',
      '\x1C',
    ),
    fc.string({ unit: 'grapheme', maxLength: 8 }),
  )
  it('agrees with the careful way, unit by unit and place by place', () => {
    fc.assert(
      fc.property(fc.array(piece, { maxLength: 12 }), pieces => same(pieces.join(''))),
      { seed: 31, numRuns: 5000 },
    )
  })
  it('also where a text is longer than a piece', () => {
    for (const edge of ['a', ' ', '   ', '\r\n', 'é', ' \u00A0', '😀', 'e\u0301', '\uD83D'])
      for (const before of [8189, 8190, 8191, 8192, 8193])
        same(`${'x'.repeat(before)}${edge}tail ${'y z\r\n'.repeat(20_000)}é`)
    same(' '.repeat(200_000))
    same('ю'.repeat(20_000))
    same('aю'.repeat(20_000))
  })
  it('finds every key in a long text, where a plain search finds it, wherever pieces end', () => {
    const words = [
      'fee',
      'release fee',
      'straße',
      'moon',
      'levy due',
      'a',
      'no',
      'harbour dues of the quarter',
      'ﬁne',
      'ine',
      'f',
      `${'ae'.repeat(150)}xqzj`,
      `w${'v'.repeat(9000)}`,
    ]
    const part = fc.oneof(
      { weight: 5, arbitrary: fc.constantFrom(...words.slice(0, 11), ...words.slice(0, 11).map(w => w.toUpperCase())) },
      fc.constantFrom(...words.slice(11)),
      fc.stringMatching(/^[a-z ,.]{0,60}$/),
      fc.constantFrom('  ', '\r\n\r\n', 'é', '\u200B', '😀', 'ю'.repeat(50), 'q'.repeat(3000)),
    )
    // With the longest key there is much to keep; without it little.
    const indexes = [new PhraseIndex(words), new PhraseIndex(words.slice(0, -1))]
    const hits = (
      text: string,
      scan: (found: (key: number, start: number, view: ReturnType<typeof viewOf>) => void) => void,
    ) => {
      const out: string[] = []
      scan((key, start, view) => {
        const span = sourceSpan(view, start, start + words[key]!.length)
        out.push(
          `${words[key]!.slice(0, 30)} at ${start}, ${span ? `${span.start} to ${span.end}` : 'inside a character'}`,
        )
      })
      return out.sort()
    }
    fc.assert(
      fc.property(fc.array(part, { minLength: 1, maxLength: 40 }), fc.nat(30_000), (parts, before) => {
        const text = `${'p '.repeat(before / 2)}${parts.join(' ')} ${parts.reverse().join(',')}`
        const careful = viewOf(text, 'plain')
        const written = viewText(careful)
        for (const [n, index] of indexes.entries()) {
          const plainly = hits(text, found =>
            words.slice(0, words.length - n).forEach((word, key) => {
              for (let at = written.indexOf(word); at >= 0; at = written.indexOf(word, at + 1)) found(key, at, careful)
            }),
          )
          expect(hits(text, found => scanText(text, 'plain', index, buffer, found))).toEqual(plainly)
        }
      }),
      { seed: 32, numRuns: 300 },
    )
  })
  it('is made from the source that stands in kernel/', async () => {
    expect(await compileKernel()).toBe(
      readFileSync(new URL('../../../core/text/kernel-code.ts', import.meta.url), 'utf8'),
    )
  })
})
