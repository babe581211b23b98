// Python's email package (Debian's python3) as the other reader, on generated messages and on messages with lines lost,
// doubled and cut off.
import { execFileSync } from 'node:child_process'
import { describe, expect, it } from 'vitest'
import { parseContent } from '#core'
import { scanStructure, type Part } from '../../core/message/structure'
import { generate, ODD, Random } from '../../demo'

const python = (messages: Uint8Array[]) =>
  execFileSync('python3', [new URL('data/email_facts.py', import.meta.url).pathname], {
    input: messages.map(m => Buffer.from(m).toString('base64')).join('\n'),
    maxBuffer: 1e9,
    encoding: 'utf8',
  })
    .trim()
    .split('\n')
    .map(l => JSON.parse(l))

// Shapes that no program should make have checks of their own.
const generated = [...generate(new Date('2026-11-24'), 300)].filter(m => m.kind !== ODD).map(m => m.bytes)

/** The body with some of its lines lost, doubled, swapped or cut off; the header stays, so that both speak of the same message. */
function mutated(bytes: Uint8Array, random: Random): Uint8Array {
  const text = Buffer.from(bytes).toString('latin1')
  const end = text.indexOf('\r\n\r\n') + 4
  const lines = text.slice(end).split('\r\n')
  for (let n = random.between(1, 4); n > 0 && lines.length > 1; n--) {
    const at = random.between(0, lines.length - 1)
    const how = random.between(0, 3)
    if (how === 0) lines.splice(at, 1)
    else if (how === 1) lines.splice(at, 0, lines[at]!)
    else if (how === 2) [lines[at], lines[0]] = [lines[0]!, lines[at]!]
    else lines.length = at + 1
  }
  return Buffer.from(text.slice(0, end) + lines.join('\r\n'), 'latin1')
}

const leaves = (part: Part): string[] => (part.children.length ? part.children.flatMap(leaves) : [part.type.value])

describe('Python’s email reads the same: a rule would act on something that is not in the message', () => {
  it('generated messages, fact by fact', async () => {
    const theirs = python(generated)
    for (const [i, bytes] of generated.entries()) {
      const ours = await parseContent(bytes)
      const address = (a: { name: string, local: string, domain: string }) => [a.name, `${a.local}@${a.domain}`]
      const own = ours.segments
        .filter(s => s.place === 'own' || s.place === 'quoted')
        .map(s => s.text)
        .join('\n')
      expect({
        from: ours.from.map(address),
        to: ours.to.map(address),
        subject: ours.subject,
        date: ours.date && Date.parse(ours.date) / 1000,
        messageId: ours.messageId,
        headers: ours.headers.map(h => h.name.toLowerCase()),
        attachments: ours.attachments.map(a => [a.name, a.size]),
        words: theirs[i].words === null ? null : [...new Set(own.split(/\s+/).filter(Boolean))].sort(),
        leaves: leaves(scanStructure(bytes).root),
      }).toEqual({
        ...theirs[i], // The marks of quotation are no words of the text (RFC 3676 4.5).
        words: theirs[i].words && theirs[i].words.filter((w: string) => !/^>+$/.test(w)).sort(),
      })
    }
  })
  it('mutated messages: header fields, subject and sender', async () => {
    const random = new Random(9)
    const messages = Array.from({ length: 1000 }, () => mutated(random.pick(generated), random))
    const theirs = python(messages)
    for (const [i, bytes] of messages.entries()) {
      const ours = await parseContent(bytes)
      expect([
        i,
        ours.headers.map(h => h.name.toLowerCase()),
        ours.subject,
        ours.from.map(a => `${a.local}@${a.domain}`),
      ]).toEqual([i, theirs[i].headers, theirs[i].subject, theirs[i].from.map((f: string[]) => f[1])])
    }
  })
})
