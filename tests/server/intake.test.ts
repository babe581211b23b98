import { afterAll, beforeAll, describe, expect, inject, it } from 'vitest'
import { slowPdf, withDocument } from '../support/documents'
import { type Caller, request, signIn } from '../support/http'
import { install, type Installation, TOKEN } from '../support/installation'
import { addressOf } from '../support/office'
import { handOver, plainMessage, smtp } from '../support/smtp'

const WORKER = addressOf('worker')
let gate: Installation
let admin: Caller
let worker: Caller

beforeAll(async () => {
  gate = await install(inject('clusterFolder'), 'intake')
  admin = await signIn(gate, 'admin')
  worker = await signIn(gate, WORKER)
})
afterAll(() => gate.stop())

const last = (replies: string[]) => replies.at(-1)!.slice(0, 3)
const found = async (words: string) => (await admin('GET', `/api/copies?words=${encodeURIComponent(words)}`)).body.items

describe('intake: a message that was answered for would be lost, or a refusal leave no trace', () => {
  it('takes a message, decides it, and shows it with its reasons', async () => {
    const replies = await smtp(
      gate.smtpPort,
      handOver('x@elsewhere.example', [WORKER], plainMessage({ subject: 'zebra', text: 'a release fee is due' })),
    )
    expect(replies.at(-1)).toMatch(/^250 2\.0\.0/)
    const [copy] = await found('zebra')
    expect(copy).toMatchObject({
      lane: 'quarantine',
      recipient: WORKER,
      sender: 'someone@elsewhere.example',
      subject: 'zebra',
    })
    const detail = (await admin('GET', `/api/copies/${copy.id}`)).body
    expect(detail.reasons[detail.decision.decidedBy]).toMatchObject({
      clause: { name: 'Fee demands' },
      outcome: { kind: 'decided' },
      evidence: [{ phrase: 'release fee', place: 'own', start: 2, end: 13 }],
    })
    expect(detail.sentence).toBe('Held in quarantine “General” because rule “Fee demands” found “release fee” in the text.')
  })

  it('counts a sender as verified only through the relay', async () => {
    const partner = { from: 'notices@coastal-authority.example', text: 'the release fee is waived' }
    await smtp(
      gate.smtpPort,
      handOver(
        'notices@coastal-authority.example',
        [WORKER],
        plainMessage({ ...partner, subject: 'giraffe straight' }),
      ),
    )
    const trace =
      'Authentication-Results: relay.saltmere-harbour.example; dmarc=pass header.from=coastal-authority.example\nReceived: from x (x '
      + '[192.0.2.4]) by relay.saltmere-harbour.example; Tue, 24 Nov 2026 09:00:00 +0000\n'
    await smtp(
      gate.smtpPort,
      handOver(
        'notices@coastal-authority.example',
        [WORKER],
        trace + plainMessage({ ...partner, subject: 'giraffe relayed' }),
      ),
      '127.0.0.2',
    )
    await smtp(
      gate.smtpPort,
      handOver(
        'notices@coastal-authority.example',
        [WORKER],
        trace + plainMessage({ ...partner, subject: 'giraffe forged' }),
      ),
    )
    expect(
      Object.fromEntries((await found('giraffe')).map((c: { subject: string, lane: string }) => [c.subject, c.lane])),
    ).toEqual({ 'giraffe straight': 'quarantine', 'giraffe relayed': 'inbox', 'giraffe forged': 'quarantine' })
  })

  it('knows a repeat and decides nothing twice', async () => {
    const message = plainMessage({ subject: 'once only', id: 'same' })
    expect((await smtp(gate.smtpPort, handOver('x@elsewhere.example', [WORKER], message))).at(-1)).toMatch(/^250/)
    expect(
      (
        await smtp(
          gate.smtpPort,
          handOver('x@elsewhere.example', [WORKER, addressOf('reviewer')], message),
        )
      ).at(-1),
    ).toMatch(/^250/)
    expect((await found('"once only"')).map((c: { recipient: string }) => c.recipient).sort()).toEqual([
      addressOf('reviewer'),
      WORKER,
    ])
  })

  it('refuses unknown recipients with 550, always takes postmaster, and has every attempt on record', async () => {
    expect(
      (
        await smtp(gate.smtpPort, [
          'EHLO x',
          'MAIL FROM:<a@elsewhere.example>',
          'RCPT TO:<nobody@saltmere-harbour.example>',
        ])
      ).at(-1),
    ).toMatch(/^550 5\.1\.1 Mailbox nobody@\S+ does not exist/)
    expect(
      last(await smtp(gate.smtpPort, ['EHLO x', 'MAIL FROM:<a@elsewhere.example>', 'RCPT TO:<x@not-ours.example>'])),
    ).toBe('550')
    const [refused] = await gate.ask.attempts({ rcptTo: addressOf('nobody') })
    expect(refused).toMatchObject({
      mailFrom: 'a@elsewhere.example',
      replyCode: 550,
      client: '127.0.0.1',
      messageId: null,
    })
    for (const postmaster of ['postmaster', addressOf('Postmaster')])
      expect(
        last(await smtp(gate.smtpPort, handOver('', [postmaster], plainMessage({ subject: `to ${postmaster}` })))),
      ).toBe('250')
    expect(await gate.ask.attempts({ rcptLike: 'postmaster%' })).toHaveLength(2)
  })

  it('refuses what is over 25 MB with 552, announced or not', async () => {
    expect(
      last(await smtp(gate.smtpPort, ['EHLO x', `MAIL FROM:<big@elsewhere.example> SIZE=${26 * 1024 * 1024 + 1}`])),
    ).toBe('552')
    const big = plainMessage({ text: `${'x'.repeat(998)}\r\n`.repeat(27 * 1024) })
    expect((await smtp(gate.smtpPort, handOver('big@elsewhere.example', [WORKER], big))).at(-1)).toMatch(
      /^552 .*the limit is 25 MB/,
    )
    expect((await gate.ask.attempts({ mailFrom: 'big@elsewhere.example' })).map(a => a.replyCode)).toEqual([552, 552])
  })

  it('stores what PostgreSQL would reject, cleaned', async () => {
    const nul = Buffer.concat([
      Buffer.from(
        'From: a@elsewhere.example\r\nSubject: =?utf-8?B?AHdhbHJ1cwA=?=\r\nContent-Type: text/plain; '
        + 'charset=utf-16le\r\nContent-Transfer-Encoding: base64\r\n\r\n',
      ),
      Buffer.from(`${Buffer.from([0x41, 0xd8, 0x42, 0x00, 0x00, 0x00]).toString('base64')}\r\n.\r\n`),
    ])
    expect(last(await smtp(gate.smtpPort, [...handOver('a@elsewhere.example', [WORKER], '').slice(0, -1), nul]))).toBe(
      '250',
    )
    const huge = plainMessage({
      subject: `octopus ${'ü'.repeat(4000)}`,
      text: Array.from({ length: 90_000 }, (_, i) => `w${i.toString(36)}`)
        .join(' ')
        .replace(/(.{900}) /g, '$1\n'),
    })
    expect(last(await smtp(gate.smtpPort, handOver('a@elsewhere.example', [WORKER], huge)))).toBe('250')
    expect(await found('walrus')).toHaveLength(1)
    expect(await found('octopus')).toHaveLength(1)
    const [copy] = await found('walrus')
    expect((await admin('GET', `/api/copies/${copy.id}`)).status).toBe(200)
  })

  it('refuses at the door what a list or a rule refuses, with the reply that was written, and keeps no text of it', async () => {
    const made = await admin('POST', '/api/lists', {
      name: 'Shut out',
      owner: 'organisation',
      usualSide: 'block',
      assignment: { side: 'block', state: 'enabled', mandatory: true, stop: { to: 'refuse', reply: 'Not from there' } },
      entries: 'shut.test',
    })
    expect(made.status).toBe(201)
    await admin('POST', '/api/rules', {
      name: 'Ibis',
      owner: 'organisation',
      mandatory: true,
      state: 'enabled',
      when: { phrases: ['ibis'] },
      except: [],
      claims: [{ stop: { to: 'refuse', reply: 'No ibis' } }],
    })
    expect(
      (
        await smtp(
          gate.smtpPort,
          handOver('a@elsewhere.example', [WORKER], plainMessage({ from: 'b@shut.test', subject: 'okapi' })),
        )
      ).at(-1),
    ).toBe('550 5.7.1 Not from there')
    const replies = await smtp(
      gate.smtpPort,
      handOver(
        'a@elsewhere.example',
        [WORKER, addressOf('reviewer')],
        plainMessage({ subject: 'an ibis', text: 'tapir' }),
      ),
    )
    expect(replies.at(-1)).toBe('550 5.7.1 No ibis')
    const copies = await found('ibis')
    expect(copies.map((c: { lane: string }) => c.lane)).toEqual(['refused', 'refused'])
    expect(await found('tapir')).toEqual([])
    expect((await gate.ask.attempts({ reply: '5.7.1 No ibis' })).map(a => a.replyCode)).toEqual([550, 550])
    // Sent again once the rule is gone, it is decided afresh.
    const rule = (await admin('GET', '/api/rules')).body.items.find((r: { name: string }) => r.name === 'Ibis')
    await admin('DELETE', `/api/rules/${rule.id}?version=${rule.version}`)
    const message = plainMessage({ subject: 'quagga', text: 'x', id: 'again', from: 'b@shut.test' })
    expect(last(await smtp(gate.smtpPort, handOver('a@elsewhere.example', [WORKER], message)))).toBe('550')
    const list = (await admin('GET', `/api/lists/${made.body.id}`)).body
    await admin('DELETE', `/api/lists/${made.body.id}?version=${list.version}`)
    expect(last(await smtp(gate.smtpPort, handOver('a@elsewhere.example', [WORKER], message)))).toBe('250')
    expect((await found('quagga')).map((c: { lane: string }) => c.lane)).toEqual(['inbox'])
  })

  it('gives up on documents that take for ever, and takes the messages all the same; others are served meanwhile', async () => {
    const document = slowPdf()
    const order: string[] = []
    const slow = ['one', 'two'].map(async (name) => {
      const replies = await smtp(
        gate.smtpPort,
        handOver('a@elsewhere.example', [WORKER], withDocument(`narwhal ${name}`, 'slow.pdf', document)),
      )
      order.push('slow')
      return last(replies)
    })
    for (let i = 0; i < 5; i++) {
      expect(
        last(
          await smtp(
            gate.smtpPort,
            handOver('a@elsewhere.example', [WORKER], plainMessage({ subject: `meanwhile ${i}` })),
          ),
        ),
      ).toBe('250')
      order.push('plain')
    }
    expect(order).toEqual(Array(5).fill('plain'))
    expect(await Promise.all(slow)).toEqual(['250', '250'])
    const copies = await found('narwhal')
    expect(copies).toHaveLength(2)
    for (const { id } of copies)
      expect((await admin('GET', `/api/copies/${id}`)).body.facts.defects).toContainEqual({
        code: 'attachment not readable',
        detail: 'slow.pdf: reading took too long',
      })
  })

  it('opening a message that takes for ever holds up nobody, and costs once', async () => {
    // Elements in each other without end cost the package that makes HTML harmless the square of their number.
    const deep =
      `From: a@elsewhere.example\nSubject: axolotl\nMIME-Version: 1.0\nContent-Type: text/html\n\n${'<div>\n'.repeat(250_000)}words`
    expect(last(await smtp(gate.smtpPort, handOver('a@elsewhere.example', [WORKER], deep)))).toBe('250')
    await smtp(
      gate.smtpPort,
      handOver(
        'a@elsewhere.example',
        [WORKER],
        'From: a@elsewhere.example\nSubject: marmot\nContent-Type: text/html\n\n<p>words</p>',
      ),
    )
    const [[costly], [quick]] = [await found('axolotl'), await found('marmot')]
    const order: string[] = []
    const opening = admin('GET', `/api/copies/${costly.id}`).then((answer) => {
      order.push('costly')
      return answer
    })
    for (let i = 0; i < 3; i++) {
      expect((await admin('GET', `/api/copies/${quick.id}`)).status).toBe(200)
      order.push('quick')
    }
    expect(order).toEqual(['quick', 'quick', 'quick'])
    expect(await opening).toMatchObject({ status: 200, body: { html: null, facts: { subject: 'axolotl' } } })
    expect(await gate.ask.keptHtml(['axolotl', 'marmot'])).toEqual({ axolotl: false, marmot: true })
  })

  it('one message handed over by many at once, its recipients in any order, is there once for each', async () => {
    const recipients = [WORKER, addressOf('reviewer'), addressOf('admin')]
    const message = plainMessage({ subject: 'caracal', id: 'at-once' })
    const replies = await Promise.all(
      Array.from({ length: 20 }, (_, i) =>
        smtp(gate.smtpPort, handOver('x@elsewhere.example', i % 2 ? recipients : [...recipients].reverse(), message)),
      ),
    )
    expect(replies.map(last)).toEqual(Array(20).fill('250'))
    expect((await found('caracal')).map((c: { recipient: string }) => c.recipient).sort()).toEqual(
      [...recipients].sort(),
    )
    expect(await gate.ask.offersOf('caracal')).toEqual({ tries: 60, times: 20 })
  })

  it('imports a file as it was received then, and says what is missing', async () => {
    const post = async (body: string, query = '') => {
      const r = await request(gate.url, `/api/imports${query}`, {
        method: 'POST',
        headers: { 'authorization': `Bearer ${TOKEN}`, 'content-type': 'message/rfc822' },
        body,
      })
      return { status: r.status, body: JSON.parse(r.text) }
    }
    const message = `Delivered-To: ${WORKER}\nReceived: from a (a [192.0.2.9]) by b; Mon, 02 Nov 2026 10:00:00 `
      + `+0100\n${plainMessage({ subject: 'pelican' })}`
    expect(await post(message)).toMatchObject({
      status: 200,
      body: { receivedAt: '2026-11-02T09:00:00.000Z', copies: [{ recipient: WORKER, lane: 'inbox', repeat: false }] },
    })
    expect((await post(message)).body.copies).toMatchObject([{ repeat: true }])
    expect(await post('From: a@b.test\nTo: c@d.test\n\nx')).toMatchObject({
      status: 422,
      body: { detail: expect.stringContaining('--recipient') },
    })
    expect((await post('From: a@b.test\n\nx', '?recipient=admin@saltmere-harbour.example')).status).toBe(200)
    expect((await worker('POST', '/api/imports', 'x')).status).toBe(403)
  })
})
