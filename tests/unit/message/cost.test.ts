import { describe, expect, it } from 'vitest'
import { decide, parseMessage, type Policy } from '#core'
import { compileExpression } from '../../../core/policy/expressions'
import { ENTRY_KINDS, readEntryLine, readLines } from '../../../core/kinds'
import { HOSTILE } from '../../support/hostile-shapes'
import { envelope, NOW, OURS, policy, TRUST } from '../../support/build'

const SHORT = 24_000
const TIMES = 12
/**
 * What the processor works for a thing, in microseconds: what else the machine does is not counted. The least of some runs,
 * since what disturbs only adds.
 */
async function work(run: () => unknown, runs = 3): Promise<number> {
  let least = Infinity
  for (let i = 0; i < runs; i++) {
    const before = process.cpuUsage()
    await run()
    const { user, system } = process.cpuUsage(before)
    least = Math.min(least, user + system)
  }
  return least
}

/** Twelve times the length may cost some twenty times the work and a little besides; its square would be a hundred and forty-four. */
const grows = (long: number, short: number) => long <= short * TIMES * 2.5 + 60_000

const rule = (when: Policy['rules'][number]['when']) =>
  policy({
    rules: [
      {
        id: 'r',
        name: 'r',
        owner: 'organisation',
        state: 'enabled',
        when,
        except: [],
        claims: [{ stop: { to: 'spam' } }],
      },
    ],
  })
const stopping = rule({
  phrases: [
    'release fee',
    { text: 'other words', near: { phrases: Array.from({ length: 20 }, (_, i) => `word${i}`), within: 5 } },
  ],
})
const readAndDecide = async (text: string, rules = stopping) =>
  decide(await parseMessage(new TextEncoder().encode(text), envelope(), TRUST), `oskar@${OURS}`, rules, { now: NOW })

describe('cost grows with length only: one message would stop all others', () => {
  it.each(Object.keys(HOSTILE))('%s', async (shape) => {
    const [short, long] = [HOSTILE[shape]!(SHORT), HOSTILE[shape]!(SHORT * TIMES)]
    await readAndDecide(short) // compiled and warm
    const [less, more] = [await work(() => readAndDecide(short)), await work(() => readAndDecide(long), 2)]
    expect([shape, less, more, grows(more, less)]).toEqual([shape, less, more, true])
  })
  it('twenty companions all over a text', async () => {
    const company = rule({
      phrases: [{ text: 'fee', near: { phrases: Array.from({ length: 20 }, (_, i) => `word${i}`), within: 2 } }],
    })
    const text = (n: number) => `From: a@x.test\r\n\r\n${'fee x y z word3 '.repeat(n / 16)}`
    const [short, long] = [text(SHORT), text(SHORT * TIMES)]
    await readAndDecide(short, company)
    const [less, more] = [
      await work(() => readAndDecide(short, company)),
      await work(() => readAndDecide(long, company), 2),
    ]
    expect([less, more, grows(more, less)]).toEqual([less, more, true])
  })
  it('padding with thousands of hits hides no pair', async () => {
    const company = rule({ phrases: [{ text: 'fee', near: { phrases: ['urgent'], within: 2 } }] })
    expect((await readAndDecide(`From: a@x.test\r\n\r\n${'fee x y z '.repeat(5000)} urgent fee`, company)).lane).toBe(
      'spam',
    )
  })
})

describe('what people write is bounded: one line would hold up everybody', () => {
  it('an expression that is too large says so; one that is not is linear', () => {
    expect(compileExpression('(.*.*.*.*){1,900}q')).toEqual({
      error: expect.stringContaining('at most 500'),
    })
    const fine = compileExpression('(a+)+ fee')
    expect('mostText' in fine && fine.mostText).toBeGreaterThan(500_000)
  })
  // A line may be as long as the paste: where each comment is looked for anew, three of them hold the threads for minutes.
  const LINES: Record<string, (length: number) => string> = {
    'comments that a lone CR breaks off': n => `${' #'.repeat(n / 2)}\rx`,
    'comments that a line separator breaks off': n => `${' #'.repeat(n / 2)}\u2028x`,
    'blanks without an end': n => `x${' \u00A0'.repeat(n / 2)}y`,
    'commas': n => 'x ,'.repeat(n / 3),
    'brackets': n => '<a> '.repeat(n / 4),
    'at signs': n => 'a@'.repeat(n / 2),
    'stars': n => '*'.repeat(n),
    'quoted': n => `"${'\\'.repeat(n)}"@x.test`,
    'marks above a letter': n => `e${'\u0301'.repeat(n)}@x.test`,
    'names of many labels': n => `${'a.'.repeat(120)}test\n`.repeat(n / 244),
    'lines as long as may be': n => `<${'> '.repeat(490)}x\n`.repeat(n / 984),
  }
  it.each(Object.keys(LINES))('pasted lines of every kind of entry: %s', async (shape) => {
    const [short, long] = [LINES[shape]!(20_000), LINES[shape]!(20_000 * TIMES)]
    for (const as of [undefined, ...ENTRY_KINDS]) {
      const read = (text: string) => work(() => readLines({ text, below: false, as }), 2)
      const [less, more] = [await read(short), await read(long)]
      expect([as, less, more, grows(more, less)]).toEqual([as, less, more, true])
    }
  })
  it('an end of line of any system ends a comment, and only a # behind a blank begins one', () => {
    const text = 'a@x.test # one\rb@x.test\u2028c#d@x.test\r\n# all of it @y.test\n\te@x.test\t#'
    expect(readLines({ text, below: false }).good.map(e => e.value)).toEqual(['a@x.test', 'b@x.test', 'c#d@x.test', 'e@x.test'])
  })
  it('a pasted line of 160 kB is answered with a sentence', async () => {
    for (const piece of ['x', 'a@', '<a> ', '*', 'a.', 'é', '(']) {
      const line = piece.repeat(160_000 / piece.length)
      expect(readEntryLine(line)).toEqual({ error: expect.stringContaining('Write one address or domain per line') })
      expect(await work(() => readEntryLine(line), 1)).toBeLessThan(1_000_000)
    }
  })
})
