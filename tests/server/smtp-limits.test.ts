// The limits of the SMTP door, set low so that a test need not wait for minutes.
import { createConnection, type Socket } from 'node:net'
import { afterAll, beforeAll, describe, expect, inject, it } from 'vitest'
import { install, type Installation } from '../support/installation'
import { addressOf, OURS } from '../support/office'
import { handOver, plainMessage, smtp } from '../support/smtp'
import { until } from '../support/wait'

const WORKER = addressOf('worker')
let gate: Installation

beforeAll(async () => {
  gate = await install(inject('clusterFolder'), 'smtp_limits', { env: {
    SOBER_GATE_SMTP_CLIENTS: '40',
    SOBER_GATE_SMTP_CLIENTS_EACH: '5',
    SOBER_GATE_SMTP_COMMAND_SECONDS: '3',
    SOBER_GATE_SMTP_TRANSACTION_SECONDS: '8',
    SOBER_GATE_SMTP_RECIPIENTS: '100',
    SOBER_GATE_SMTP_UNKNOWN_RECIPIENTS: '3',
  } })
})
afterAll(() => gate.stop())

/** A connection that is kept: what came, and when it ended. */
function hold(localAddress = '127.0.0.1') {
  const socket: Socket = createConnection({ port: gate.smtpPort, host: '127.0.0.1', localAddress })
  const held = { socket, said: '', ended: false, seconds: 0 }
  const began = performance.now()
  socket.on('data', data => (held.said += data.toString()))
  socket.on('error', () => undefined)
  socket.on('close', () => Object.assign(held, { ended: true, seconds: (performance.now() - began) / 1000 }))
  return held
}
const last = (replies: string[]) => replies.at(-1)!
const copies = (subject: string) => gate.ask.countCopies({ subject })

describe('connections: a few clients would shut everybody out', () => {
  it('a client has so many, and then as many again as it gives up', async () => {
    const own = Array.from({ length: 5 }, () => hold('127.0.0.2'))
    await until('five connections are greeted', () => own.every(h => h.said.startsWith('220')))
    const sixth = hold('127.0.0.2')
    await until('the sixth connection is ended', () => sixth.ended)
    expect(sixth.said).toMatch(/^421 4\.7\.0 Too many connections from your address \(5\)/)
    // Others are served meanwhile.
    expect(
      last(await smtp(gate.smtpPort, handOver('a@elsewhere.example', [WORKER], plainMessage()), '127.0.0.3')),
    ).toMatch(/^250/)
    own.pop()!.socket.end('QUIT\r\n')
    // The server hears of it a moment later, and says 421 until then.
    const again = await until('the place that was given up is there again', async () => {
      const next = hold('127.0.0.2')
      await until('the next connection is answered', () => next.said || next.ended)
      return next.said.startsWith('220') && next
    })
    for (const h of [...own, again]) h.socket.destroy()
  })
  it('one that drips, with a byte now and then or a line for ever, is sent away', async () => {
    const silent = hold('127.0.0.4')
    const bytes = hold('127.0.0.4')
    const lines = hold('127.0.0.4')
    const data = hold('127.0.0.4')
    await until('four connections are greeted', () => [silent, bytes, lines, data].every(h => h.said.startsWith('220')))
    lines.socket.write('EHLO test.example\r\n')
    data.socket.write(`EHLO test.example\r\nMAIL FROM:<a@elsewhere.example>\r\nRCPT TO:<${WORKER}>\r\nDATA\r\n`)
    await until('the message may begin', () => data.said.includes('354'))
    const drip = setInterval(() => {
      bytes.socket.write('N')
      lines.socket.write('NOOP\r\n')
      data.socket.write('x: y\r\n')
    }, 700)
    await until('all four are sent away', () => [silent, bytes, lines, data].every(h => h.ended))
    clearInterval(drip)
    expect(silent.said).toContain('421 4.4.2 No line was complete within 3 seconds')
    expect(bytes.said).toContain('421 4.4.2 No line was complete within 3 seconds')
    expect(lines.said).toContain('421 4.4.2 The message was not complete within 8 seconds')
    expect(data.said).toContain('421 4.4.2 The message was not complete within 8 seconds')
    // Whatever the machine does besides: they were not cut off before their time.
    expect(Math.min(silent.seconds, bytes.seconds)).toBeGreaterThan(2.5)
    expect(Math.min(lines.seconds, data.seconds)).toBeGreaterThan(7.5)
  })
  it('while as many drip as there is room for from one client, mail comes in from another', async () => {
    const dripping = Array.from({ length: 30 }, () => hold('127.0.0.5'))
    for (let i = 0; i < 3; i++)
      expect(
        last(
          await smtp(
            gate.smtpPort,
            handOver('a@elsewhere.example', [WORKER], plainMessage({ subject: 'beside drips' })),
            '127.0.0.6',
          ),
        ),
      ).toMatch(/^250/)
    expect(dripping.filter(h => !h.said.startsWith('421')).length).toBeLessThanOrEqual(5)
    for (const h of dripping) h.socket.destroy()
  })
  it('message after message on one connection has its time each', async () => {
    const lines = Array.from({ length: 4 }, () =>
      handOver('a@elsewhere.example', [WORKER], plainMessage({ subject: 'one after the other' })).slice(1),
    ).flat()
    const socketTime = ['EHLO test.example', ...lines]
    expect(last(await smtp(gate.smtpPort, socketTime, '127.0.0.7'))).toMatch(/^250/)
    expect(await copies('one after the other')).toBe(4)
  })
})

describe('recipients: one message would become thousands', () => {
  it('takes 100 and says 452 to more, and what was taken is delivered', async () => {
    const tagged = Array.from({ length: 101 }, (_, i) => `worker+${i}@${OURS}`)
    const replies = await smtp(
      gate.smtpPort,
      handOver('a@elsewhere.example', tagged, plainMessage({ subject: 'to a hundred' })),
      '127.0.0.8',
    )
    // RFC 5321 4.5.3.1.10: 452 for too many recipients.
    expect(replies.slice(3, 103).every(r => r.startsWith('250'))).toBe(true)
    expect(replies[103]).toMatch(/^452/)
    expect(last(replies)).toMatch(/^250/)
    expect(await copies('to a hundred')).toBe(1)
  })
  it('one copy an address, whatever its tag, case or spelling', async () => {
    const ways = [
      WORKER,
      addressOf('Worker'),
      `worker+a@${OURS}`,
      `worker+b@${OURS.toUpperCase()}`,
      `"worker"@${OURS}`,
      addressOf('oskar.brandt'),
      `oskar.brandt+x@${OURS}`,
    ]
    expect(
      last(
        await smtp(
          gate.smtpPort,
          handOver('a@elsewhere.example', ways, plainMessage({ subject: 'spelt seven ways' })),
          '127.0.0.8',
        ),
      ),
    ).toMatch(/^250/)
    expect(await copies('spelt seven ways')).toBe(2)
  })
  it('whoever guesses addresses is sent away after three', async () => {
    const lines = [
      'EHLO test.example',
      'MAIL FROM:<a@elsewhere.example>',
      ...Array.from({ length: 3 }, (_, i) => `RCPT TO:<guess${i}@${OURS}>`),
      `RCPT TO:<${WORKER}>`,
    ]
    const before = await smtp(gate.smtpPort, lines, '127.0.0.9')
    expect(before.slice(3).map(r => r.slice(0, 3))).toEqual(['550', '550', '550', '250'])
    const held = hold('127.0.0.9')
    const replies = () => held.said.split('\r\n').filter(l => /^\d{3} /.test(l)).length
    for (const [i, line] of [...lines, `RCPT TO:<guess4@${OURS}>`].entries()) {
      await until(`reply ${i} has come`, () => replies() > i)
      held.socket.write(`${line}\r\n`)
    }
    await until('the connection is ended', () => held.ended)
    expect(held.said).toContain('421 4.7.1 Too many unknown recipients (more than 3)')
    expect(held.said.match(/^550/gm)).toHaveLength(3)
    // Each guess is on record all the same.
    expect((await gate.ask.attempts({ rcptLike: 'guess%' })).map(a => a.replyCode)).toEqual(Array(7).fill(550))
  })
  it('parameters that nobody knows are 555, and no recipient is taken with them', async () => {
    const at = async (...lines: string[]) =>
      last(await smtp(gate.smtpPort, ['EHLO test.example', ...lines], '127.0.0.10')).slice(0, 3)
    // RFC 5321 4.1.1.11; RFC 1870, 6152 and 6531 for those that EHLO offers.
    expect([
      await at('MAIL FROM:<a@elsewhere.example> FUTURE=1'),
      await at('MAIL FROM:<a@elsewhere.example> XYZZY'),
      await at('MAIL FROM:<a@elsewhere.example> RET=HDRS'),
      await at('MAIL FROM:<a@elsewhere.example> SIZE=100 BODY=8BITMIME SMTPUTF8'),
      await at('MAIL FROM:<a@elsewhere.example> SIZE=lots'),
      await at('MAIL FROM:<a@elsewhere.example> BODY=BINARYMIME'),
      await at('MAIL FROM:<a@elsewhere.example>', `RCPT TO:<${WORKER}> NOTIFY=NEVER`),
      await at('MAIL FROM:<a@elsewhere.example>', `RCPT TO:<${WORKER}> SIZE=1`),
    ]).toEqual(['555', '555', '555', '250', '501', '501', '555', '555'])
  })
})

describe('where a message ends: somebody would hide a second one in the first', () => {
  // RFC 5321 4.1.1.4: only CRLF.CRLF ends the data; a server that takes less hears messages that the one before it never saw.
  it.each(['\n.\n', '\n.\r\n', '\r\n.\n', '\r.\r', '\r\n.\r', '\r.\n'])('not at %o', async (end) => {
    const subject = `hidden behind ${JSON.stringify(end)}`
    const held = hold('127.0.0.11')
    const replies = () => held.said.split('\r\n').filter(l => /^\d{3} /.test(l)).length
    for (const [i, line] of ['EHLO x.example', 'MAIL FROM:<a@elsewhere.example>', `RCPT TO:<${WORKER}>`, 'DATA'].entries()) {
      await until(`reply ${i} has come`, () => replies() > i)
      held.socket.write(`${line}\r\n`)
    }
    await until('the message may begin', () => held.said.includes('354'))
    const second = `MAIL FROM:<evil@elsewhere.example>\r\nRCPT TO:<${WORKER}>\r\nDATA\r\nSubject: ${subject} two\r\n\r\nx`
    held.socket.write(`Subject: ${subject}\r\n\r\ntext${end}${second}\r\n.\r\n`)
    await until('the message is taken', () => /^250 2\.0\.0 Message accepted/m.test(held.said))
    held.socket.destroy()
    expect([await copies(subject), await copies(`${subject} two`)]).toEqual([1, 0])
  })
})

describe('the same messages at the same time, in different order', () => {
  it('none waits for another for ever, and none is there twice', async () => {
    const messages = Array.from({ length: 6 }, (_, i) =>
      plainMessage({ subject: 'in any order', id: `order-${i}`, text: `text ${i}` }),
    )
    const recipients = [WORKER, addressOf('admin'), addressOf('reviewer'), addressOf('oskar.brandt')]
    const turned = <T>(things: T[], by: number) =>
      things.map((_, i) => things[(i * (by % 2 ? 1 : things.length - 1) + by) % things.length]!)
    const results = await Promise.all(
      Array.from({ length: 20 }, async (_, i) => {
        const out: string[] = []
        for (const message of turned(messages, i))
          out.push(
            last(
              await smtp(
                gate.smtpPort,
                handOver('a@elsewhere.example', turned(recipients, i), message),
                `127.0.1.${i + 1}`,
              ),
            ),
          )
        return out
      }),
    )
    expect(results.flat().filter(r => !r.startsWith('250'))).toEqual([])
    expect(await copies('in any order')).toBe(messages.length * recipients.length)
  })
})
