// Figures that people act on, held against what others published or computed.
import { execFileSync } from 'node:child_process'
import { join } from 'node:path'
import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { wilson } from '#core/simulate'
import { logOdds } from '#core/suggest'

describe('Wilson’s interval: somebody would trust a rule on too little', () => {
  // Newcombe 1998, Statistics in Medicine 17:857-872, table I, method 3 (from memory).
  it.each([
    [81, 263, 0.2553, 0.3662],
    [15, 148, 0.0624, 0.1605],
    [0, 20, 0, 0.1611],
    [1, 29, 0.0061, 0.1718],
  ])('%i of %i lies between %f and %f', (hits, of, low, high) => {
    const [lower, upper] = wilson(hits, of)
    expect(lower).toBeCloseTo(low, 4)
    expect(upper).toBeCloseTo(high, 4)
  })
  it('of nothing says nothing, and always holds the share itself', () => {
    expect(wilson(0, 0)).toEqual([0, 1])
    fc.assert(
      fc.property(fc.nat(500), fc.nat(500), (a, b) => {
        const of = a + b
        const [low, high] = wilson(a, of)
        expect(low).toBeGreaterThanOrEqual(0)
        expect(high).toBeLessThanOrEqual(1)
        if (of) expect(low <= a / of + 1e-12 && a / of <= high + 1e-12).toBe(true)
      }),
    )
  })
})

describe('log-odds with a Dirichlet prior: a sketch would propose words that fit everything', () => {
  const PRIOR = 10
  const cases = fc.sample(
    fc
      .tuple(fc.integer({ min: 1, max: 50 }), fc.nat(50), fc.nat(400), fc.nat(400))
      .map(([here, more, other, rest]) => [here, here + more, other, other + rest + 1, PRIOR] as const),
    { seed: 4, numRuns: 200 },
  )
  it('agrees with the paper’s formulas in exact fractions (Python, tests/standards/data/log_odds.py)', () => {
    const result = execFileSync('python3', [join(import.meta.dirname, 'data/log_odds.py')], { input: JSON.stringify(cases) })
    const expected = JSON.parse(result.toString()) as number[]
    const got = cases.map(([here, ofHere, others, ofOthers]) => logOdds({ here, ofHere, others, ofOthers }, PRIOR))
    expect(got).toHaveLength(expected.length)
    got.forEach((z, i) => expect(z).toBeCloseTo(expected[i]!, 8))
  })
  it('prefers what is rarer elsewhere, and says nothing of what is as frequent there', () => {
    const z = (others: number) => logOdds({ here: 3, ofHere: 3, others, ofOthers: 300 })
    expect(z(0)).toBeGreaterThan(z(30))
    expect(z(30)).toBeGreaterThan(z(290))
    expect(logOdds({ here: 10, ofHere: 100, others: 40, ofOthers: 400 })).toBeCloseTo(0, 10)
  })
})
