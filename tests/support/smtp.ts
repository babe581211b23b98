import { createConnection } from 'node:net'
import { addressOf, OURS } from './office'

/** One SMTP conversation, line by line, so that the tests say exactly what is sent. Returns the replies, the greeting first. */
export async function smtp(port: number, lines: (string | Buffer)[], localAddress = '127.0.0.1'): Promise<string[]> {
  const replies: string[] = []
  const socket = createConnection({ port, host: '127.0.0.1', localAddress })
  let waiting: ((reply: string) => void) | null = null
  let buffer = ''
  socket.on('data', (data) => {
    buffer += data.toString()
    const match = /^(?:\d{3}-.*\r\n)*\d{3} .*\r\n/.exec(buffer)
    if (match && waiting) {
      buffer = buffer.slice(match[0].length)
      const done = waiting
      waiting = null
      done(match[0].trim())
    }
  })
  const reply = () =>
    new Promise<string>((resolve, reject) => {
      waiting = resolve
      socket.once('error', reject)
      socket.once('close', () => reject(new Error('the connection was closed')))
    })
  replies.push(await reply())
  for (const line of lines) {
    const next = reply()
    socket.write(typeof line === 'string' ? `${line}\r\n` : line)
    replies.push(await next)
  }
  socket.removeAllListeners()
  socket.on('error', () => undefined)
  socket.destroy()
  return replies
}

/** The lines that hand one message over. */
export function handOver(from: string, to: string[], message: string): (string | Buffer)[] {
  return [
    'EHLO test.example',
    `MAIL FROM:<${from}>`,
    ...to.map(t => `RCPT TO:<${t}>`),
    'DATA',
    Buffer.from(`${message.replace(/\r?\n/g, '\r\n').replace(/^\./gm, '..')}\r\n.\r\n`),
  ]
}

export interface Letter {
  from?: string
  subject?: string
  id?: string
  text?: string
  utf8?: boolean
}

export function plainMessage(over: Letter = {}): string {
  const utf8 = 'MIME-Version: 1.0\nContent-Type: text/plain; charset=utf-8\nContent-Transfer-Encoding: 8bit\n'
  return `From: ${over.from ?? 'someone@elsewhere.example'}\nTo: ${addressOf('worker')}\n`
    + `Subject: ${over.subject ?? 'A subject'}\nDate: Tue, 24 Nov 2026 09:00:00 +0000\n`
    + `Message-ID: <${over.id ?? crypto.randomUUID()}@elsewhere.example>\n${over.utf8 ? utf8 : ''}\n${over.text ?? 'A text'}`
}

/** The demo's relay connects from there. */
export const RELAY_ADDRESS = '127.0.0.2'

/** What the demo's relay puts above a message: that it verified its sender, unless said. */
export function relayTrace(from: string, auth = 'pass'): string {
  const domain = from.split('@')[1]!
  return `Authentication-Results: relay.${OURS}; dmarc=${auth} header.from=${domain}\nReceived: from mail.${domain} `
    + `(mail.${domain} [192.0.2.4]) by relay.${OURS}; Tue, 24 Nov 2026 09:00:00 +0000\n`
}

export interface Delivered extends Letter {
  to?: string
  relay?: boolean
  auth?: 'pass' | 'fail'
  envelopeFrom?: string
}

/**
 * Hands one message over, and returns the last reply.
 * @param over.relay through the demo's relay, which verified the sender, or found it forged by `auth`
 */
export async function deliver(port: number, over: Delivered = {}): Promise<string> {
  const { to = addressOf('worker'), relay = false, from = 'a@elsewhere.example', envelopeFrom = from, auth, ...letter } = over
  const message = (relay ? relayTrace(from, auth) : '') + plainMessage({ ...letter, from })
  return (await smtp(port, handOver(envelopeFrom, [to], message), relay ? RELAY_ADDRESS : '127.0.0.1')).at(-1)!
}
