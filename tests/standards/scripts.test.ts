// UAX #24's own data (Scripts.txt 15.0.0, from Debian's package unicode-data; its letters): a text of one letter, ten times over.
import { readFileSync } from 'node:fs'
import { describe, expect, it } from 'vitest'
import { factHolds, SCRIPTS, UserNames, type Script } from '#core/kinds'
import type { Content } from '#core'
import { envelope, message, NOW, TRUST } from '../support/build'

const ranges = readFileSync(new URL('data/Scripts.txt', import.meta.url), 'utf8')
  .split('\n')
  .filter(l => /^[0-9A-F]/.test(l))
  .map((line) => {
    const [range, script] = line.split(';') as [string, string]
    const [from, to] = range.split('..').map(n => parseInt(n, 16)) as [number, number]
    return { from, to, script }
  })
// Japanese and Korean are writing systems of several scripts (ISO 15924 Jpan, Kore); their own letters tell them.
const NAMED: Record<string, Script> = { Hiragana: 'Japanese', Katakana: 'Japanese', Hangul: 'Korean' }
const named = (script: string): Script | null =>
  NAMED[script] ?? ((SCRIPTS as readonly string[]).find(s => s === script) as Script | undefined) ?? null

describe('UAX #24: a letter that counts for another script would let a rule catch what nobody meant', () => {
  it('has the file', () => expect(ranges.length).toBeGreaterThan(500))
  it('every range of letters, at its begin, its end and between', async () => {
    const { content, attempt } = await message('Subject: x\r\n\r\nx', envelope())
    for (const { from, to, script } of ranges)
      for (const code of new Set([from, Math.floor((from + to) / 2), to])) {
        const text = String.fromCodePoint(code).repeat(10)
        const written: Content = { ...content, segments: [{ place: 'own', text }] }
        const known = {
          message: { content: written, attempt },
          recipient: attempt.envelopeSender!,
          direction: 'inbound',
          now: NOW,
          trust: TRUST,
          userNames: new UserNames([]),
        } as const
        const found = SCRIPTS.filter(s => factHolds({ script: s }, known) !== null)
        expect([code.toString(16), found]).toEqual([code.toString(16), named(script) === null ? [] : [named(script)]])
      }
  })
})
