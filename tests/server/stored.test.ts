// A message that is kept decides as its bytes did: what-if, releases and simulations rest on that.
import fc from 'fast-check'
import { afterAll, beforeAll, describe, expect, inject, it } from 'vitest'
import { decide, IndexedPolicy, parseContent, readAttempt } from '#core'
import { decisionRow } from '../../server/copies/decision-rows'
import { storedMessage, type StoredMessage } from '../../server/intake/stored-message'
import { loadPolicy } from '../../server/policy/store'
import { arbitraryMessage } from '../support/arbitrary'
import type { CopyFilter } from '../support/questions'
import { signIn } from '../support/http'
import { install, type Installation, MEDIUM } from '../support/installation'
import { addressOf } from '../support/office'
import { eachOf } from '../support/parallel'
import { handOver, smtp } from '../support/smtp'

const WORKER = addressOf('worker')
let gate: Installation

beforeAll(async () => {
  gate = await install(inject('clusterFolder'), 'stored', { contents: MEDIUM })
})
afterAll(() => gate.stop())

/** Decides every copy again from what is kept, and holds that against what was decided of its bytes when it came. */
async function decidedAgain(filter: CopyFilter = {}): Promise<{ copies: number, fromSource: number }> {
  const policy = IndexedPolicy.build(await loadPolicy(gate.ask.db))
  const rows = await gate.ask.copies(filter)
  const decisions = new Map((await gate.ask.decisions()).map(r => [r.id, r]))
  let fromSource = 0
  let copies = 0
  for (const copy of rows) {
    const stored = await storedMessage(copy, gate.ask.db)
    if (!stored) {
      expect(['refused', 'discarded']).toContain(copy.lane)
      continue
    }
    copies++
    if ('bytes' in stored.read) fromSource++
    const message = await messageOf(stored, policy)
    const decision = decide(message, copy.recipient, policy, { now: copy.receivedAt.toISOString() })
    const before = decisions.get(copy.decisionId!)!
    const after = JSON.parse(
      JSON.stringify(decisionRow({ ...decision, decidedLane: decision.lane }, before.at.toISOString())),
    )
    expect([
      copy.subject,
      after.decidedLane,
      after.quarantineId,
      after.reasons,
      after.effects,
      after.decidedBy,
    ]).toEqual([
      copy.subject,
      before.decidedLane,
      before.quarantineId,
      before.reasons,
      before.effects,
      before.decidedBy,
    ])
  }
  return { copies, fromSource }
}

async function messageOf({ read, envelope, attempt }: StoredMessage, policy: IndexedPolicy) {
  const content = 'content' in read ? read.content : await parseContent(read.bytes)
  return { content, attempt: { ...readAttempt(content, envelope, policy.compiled.policy.trust), ...attempt } }
}

describe('a message that is decided again from what is kept would go elsewhere than its bytes went', () => {
  it('the demo’s mail', async () => {
    const { copies } = await decidedAgain()
    expect(copies).toBeGreaterThan(300)
  })
  it('three hundred generated messages, and some that are too long, too many-headed or too odd to be kept whole', async () => {
    const policy = (await (await signIn(gate, `admin@saltmere-harbour.example`))('GET', '/api/policy')).body
    const odd = [
      `Subject: long\r\n\r\n${'release fee and bank details. '.repeat(20_000)}the end, grain outlook`,
      `${Array.from({ length: 300 }, (_, i) => `X-H${i}: ${i}`).join('\r\n')}\r\nX-Mailer: last\r\nSubject: headers\r\n\r\nx`,
      'Subject: zero\r\n\r\na\0b release\0 fee',
      `Subject: links\r\nContent-Type: `
      + `text/html\r\n\r\n${Array.from({ length: 300 }, (_, i) => `<a href="https://l${i}.test/">l</a>`).join('')}`,
      `To: ${Array.from({ length: 300 }, (_, i) => `p${i}@x.test`).join(', ')}, ${WORKER}\r\nSubject: many\r\n\r\nx`,
    ].map(text => `From: a@elsewhere.example\r\n${text}`)
    const generated = fc.sample(arbitraryMessage, { seed: 8, numRuns: 300 })
    const all = [
      ...odd.map(text => ({ from: 'a@elsewhere.example', text })),
      ...generated.map(({ bytes, envelope }) => ({
        from: envelope.mailFrom ?? '',
        text: new TextDecoder().decode(bytes),
      })),
    ]
    await eachOf(all, 4, async ({ from, text }) => {
      expect((await smtp(gate.smtpPort, handOver(from, [WORKER], text))).at(-1)).toMatch(/^(?:250|550)/)
    })
    const { copies, fromSource } = await decidedAgain()
    expect(copies).toBeGreaterThan(800)
    // What is kept of these says less than their bytes, and so the bytes are read.
    expect(fromSource).toBeGreaterThanOrEqual(odd.length)
    expect(policy.version).toBe((await loadPolicy(gate.ask.db)).version)
  })
  it('what an older parser read is read from the source', async () => {
    await gate.ask.readOtherwiseBefore()
    // The demo's, which are of every kind that is read.
    const { copies, fromSource } = await decidedAgain({ ids: (await gate.ask.copyIds({}, { limit: 300 })) })
    expect(fromSource).toBe(copies)
  })
})
