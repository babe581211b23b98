import { describe, expect, it } from 'vitest'
import { parseContent } from '#core'
import { Random } from '../../../demo'

let words = 0
const word = () => `w${words++}w`
const text = (random: Random) => Array.from({ length: random.between(1, 4) }, word).join(random.pick([' ', '\r\n']))

/** A tree of readable parts, each word in it once. */
function tree(random: Random, depth: number): string {
  if (depth === 0 || random.chance(0.35)) {
    const type = random.pick([
      '',
      'Content-Type: text/plain\r\n',
      'Content-Type: text/html\r\n',
      'Content-Type: text/x-other\r\n',
      'Content-Type: nonsense\r\n',
    ])
    const disposition = random.pick([
      '',
      '',
      'Content-Disposition: attachment; filename=a.txt\r\n',
      'Content-Disposition: inline\r\n',
    ])
    return `${type}${disposition}\r\n${text(random)}`
  }
  if (random.chance(0.2)) return `Content-Type: message/rfc822\r\n\r\nSubject: ${word()}\r\n${tree(random, depth - 1)}`
  const boundary = `b${random.between(0, 5)}`
  const parts = Array.from({ length: random.between(1, 3) }, () => `--${boundary}\r\n${tree(random, depth - 1)}\r\n`)
  const kind = random.pick(['mixed', 'alternative', 'related', 'digest', 'signed', 'unheard-of'])
  return `Content-Type: multipart/${kind}; `
    + `boundary=${boundary}\r\n\r\n${random.pick(['', `${word()}\r\n`])}${parts.join('')}--${boundary}--\r\n${random.pick(['', word()])}`
}

/** The words of lines that are neither delimiters nor fields: what stands in the header of a part no reader is shown. */
function* bodyWords(message: string): Generator<string> {
  for (const line of message.split('\r\n'))
    if (!/^(?:--|\s*[\w-]+:)/.test(line)) for (const [one] of line.matchAll(/w\d+w/g)) yield one
}

/** Lines lost, doubled, swapped, joined or cut off, anywhere. */
function broken(message: string, random: Random): string {
  const lines = message.split('\r\n')
  for (let n = random.between(0, 5); n > 0 && lines.length > 2; n--) {
    const at = random.between(0, lines.length - 2)
    const how = random.between(0, 5)
    if (how === 0) lines.splice(at, 1)
    else if (how === 1) lines.splice(at, 0, lines[at]!)
    else if (how === 2) [lines[at], lines[at + 1]] = [lines[at + 1]!, lines[at]!]
    else if (how === 3) lines.splice(at, 2, `${lines[at]!}${lines[at + 1]!}`)
    else if (how === 4)
      lines.splice(
        at,
        0,
        random.pick([
          '',
          ' ',
          'junk',
          '--',
          '--b1',
          '--b1--',
          'Content-Type: text/html',
          'Content-Type: multipart/mixed; boundary=b2',
        ]),
      )
    else lines[at] = lines[at]!.slice(0, random.between(0, lines[at]!.length))
  }
  return lines.join('\r\n')
}

describe('nothing is lost: a phrase would be in no place that any rule can look at', () => {
  it('every word of a broken message is somewhere in its facts', async () => {
    const random = new Random(23)
    for (let i = 0; i < 6000; i++) {
      const message = broken(`From: a@x.test\r\n${tree(random, 3)}`, random)
      const { segments, headers, attachments } = await parseContent(new TextEncoder().encode(message))
      const found = [
        ...segments.map(s => s.text),
        ...headers.map(h => `${h.name} ${h.value}`),
        ...attachments.map(a => `${a.name} ${a.text ?? ''}`),
      ].join('\n')
      for (const one of bodyWords(message)) if (!found.includes(one)) expect([message, one]).toEqual([message, 'found'])
    }
  })
})
