// Aho & Corasick 1975, section 2: the keywords he, she, his, hers in "ushers" (from memory); a plain search as the oracle
// on random texts; and RE2 against JavaScript's RegExp on the syntax that both have.
import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { compileExpression, requiredLiteral } from '#core'
import { PhraseIndex } from '#core/text'

const units = (text: string) => Uint16Array.from({ length: text.length }, (_, i) => text.charCodeAt(i))
const scan = (keys: string[], text: string) => {
  const out: [string, number][] = []
  new PhraseIndex(keys).scan(units(text), text.length, (key, start) => out.push([keys[key]!, start]))
  return out.sort((a, b) => a[1] - b[1] || a[0].localeCompare(b[0]))
}

describe('many phrases at once: one of them would be missed', () => {
  it('finds he, she and hers in ushers', () =>
    expect(scan(['he', 'she', 'his', 'hers'], 'ushers')).toEqual([
      ['she', 1],
      ['he', 2],
      ['hers', 2],
    ]))
  it('finds what a plain search finds', () => {
    const letters = fc.string({ unit: fc.constantFrom('a', 'b', 'c', ' '), minLength: 1, maxLength: 12 })
    fc.assert(
      fc.property(
        fc.uniqueArray(letters, { minLength: 1, maxLength: 40 }),
        fc.string({ unit: fc.constantFrom('a', 'b', 'c', ' '), maxLength: 200 }),
        (keys, text) => {
          const plain: [string, number][] = []
          for (const key of keys)
            for (let at = text.indexOf(key); at >= 0; at = text.indexOf(key, at + 1)) plain.push([key, at])
          expect(scan(keys, text)).toEqual(plain.sort((a, b) => a[1] - b[1] || a[0].localeCompare(b[0])))
        },
      ),
      { seed: 5, numRuns: 2000 },
    )
  })
  it('finds all of many that look alike, in a text that holds little else', () => {
    for (const lengths of [
      [7, 40],
      [4, 6],
      [1, 3],
      [11, 3000],
    ] as const) {
      const keys = Array.from({ length: Math.min(40, lengths[1] - lengths[0] + 1) }, (_, i) =>
        'a'.repeat(lengths[0] + i),
      )
      const counts = new Map(keys.map(k => [k.length, 0]))
      new PhraseIndex(keys).scan(units('a'.repeat(9000)), 9000, key =>
        counts.set(keys[key]!.length, counts.get(keys[key]!.length)! + 1),
      )
      for (const [length, count] of counts) expect([length, count]).toEqual([length, 9000 - length + 1])
    }
  })
  it.each([20, 400])(
    'finds what a plain search finds in a long text, whatever the length of the phrase, %i of each',
    (some) => {
      let seed = 1
      const next = (n: number) => (seed = (seed * 48271) % 2147483647) % n
      const text = Array.from({ length: 60_000 }, () => 'abcdef  é'[next(9)]).join('')
      const keys = [
        ...new Set(
          [1, 2, 3, 4, 5, 6, 7, 8, 9, 10, 11, 12, 13, 17, 40].flatMap(length =>
            Array.from({ length: length < 4 ? 2 : some }, () => {
              const at = next(text.length - length)
              return text.slice(at, at + length)
            }),
          ),
        ),
      ]
      const plain: [string, number][] = []
      for (const key of keys)
        for (let at = text.indexOf(key); at >= 0; at = text.indexOf(key, at + 1)) plain.push([key, at])
      const name = ([key, at]: [string, number]) => `${at} ${key}`
      expect(scan(keys, text).map(name).sort()).toEqual(plain.map(name).sort())
    },
  )
})

describe('expressions: one would match otherwise than written, or stop the gate', () => {
  const both = (source: string, text: string) => {
    const read = compileExpression(source)
    if ('error' in read) throw new Error(read.error)
    const m = read.pattern.matcher(text)
    return {
      re2: m.find() ? [m.start(), m.end()] : null,
      js: (() => {
        const found = new RegExp(source, 'i').exec(text)
        return found ? [found.index, found.index + found[0].length] : null
      })(),
    }
  }
  it('agrees with RegExp on what both can say', () => {
    const atom = fc.constantFrom('a', 'b', '[ab]', '[^a]', '.', '\\d', '\\w', '(a|bc)', '(?:ab)')
    const piece = fc.tuple(atom, fc.constantFrom('', '', '*', '+', '?', '{1,2}', '*?')).map(([a, q]) => a + q)
    fc.assert(
      fc.property(
        fc.array(piece, { minLength: 1, maxLength: 5 }).map(p => p.join('')),
        fc.string({ unit: fc.constantFrom('a', 'b', 'c', '1', ' '), maxLength: 20 }),
        (source, text) => {
          const { re2, js } = both(source, text)
          expect(re2).toEqual(js)
        },
      ),
      { seed: 6, numRuns: 3000 },
    )
  })
  it('takes linear time where backtracking takes for ever', () => {
    const read = compileExpression('(a+)+$')
    if ('error' in read) throw new Error(read.error)
    const m = read.pattern.matcher(`${'a'.repeat(20_000)}!`)
    expect(m.find()).toBe(false)
  })
  it('a literal that is said to be required stands in every match', () => {
    const piece = fc
      .tuple(
        fc.constantFrom('abc', 'fee', 'x', '[ab]c', '(abc|b)', '\\d', '.'),
        fc.constantFrom('', '', '', '*', '?', '+', '{2}'),
      )
      .map(([a, q]) => a + q)
    fc.assert(
      fc.property(
        fc.array(piece, { minLength: 1, maxLength: 5 }).map(p => p.join('')),
        fc.string({ unit: fc.constantFrom('a', 'b', 'c', 'f', 'e', 'x', '1'), maxLength: 25 }),
        (source, text) => {
          const literal = requiredLiteral(source)
          if (literal !== null && both(source, text).re2) expect(text).toContain(literal)
        },
      ),
      { seed: 7, numRuns: 3000 },
    )
  })
})
