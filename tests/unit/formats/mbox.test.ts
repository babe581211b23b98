// RFC 4155, against Python's mailbox (Debian's python3) as the other side.
import { execFileSync } from 'node:child_process'
import { mkdtempSync, readFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { describe, expect, it } from 'vitest'
import { looksLikeMbox, readMbox } from '#core/formats'

const text = (b: Uint8Array) => new TextDecoder().decode(b)

describe('mbox: an imported archive would lose or merge messages', () => {
  it('reads what Python writes, message by message', () => {
    const file = join(mkdtempSync(join(tmpdir(), 'mbox-')), 'a.mbox')
    execFileSync('python3', [
      '-c',
      `
import mailbox, email.message
box = mailbox.mbox(${JSON.stringify(file)})
for i in range(5):
    m = email.message.EmailMessage()
    m['Subject'] = f'number {i}'
    m.set_content(f'line\\nFrom the start {i}\\n\\nFrom a paragraph\\n')
    box.add(m)
box.flush()`,
    ])
    const messages = [...readMbox(readFileSync(file))]
    expect(messages.map(m => /Subject: (.*)/.exec(text(m.message))?.[1])).toEqual(
      [0, 1, 2, 3, 4].map(i => `number ${i}`),
    )
    // Python escapes with one ">" every line that begins with "From "; the recipient takes it off again.
    expect(text(messages[2]!.message)).toContain('\nFrom the start 2\n\nFrom a paragraph\n')
  })
  it('keeps what stands before the first separator, and tells an mbox from a message', () => {
    expect([
      ...readMbox(new TextEncoder().encode('Subject: x\n\ny\n\nFrom a@b Thu Jan  1 00:00:00 2026\nSubject: z\n\n')),
    ]).toHaveLength(2)
    expect(looksLikeMbox(new TextEncoder().encode('From: a@b\n'))).toBe(false)
  })
})
