import { encodedWords } from '#core/formats'
import { STAND_IN_RELAY } from './world'

export interface DemoMail {
  from: { name: string, address: string }
  to: string[]
  subject: string
  text: string
  html?: string
  /** The content as it stands, in place of text and attachments: for shapes that no program should make. */
  as?: { type: string, encoding: string | null, body: string }
  attachments?: { name: string, type: string, bytes: Uint8Array }[]
  headers?: [string, string][]
  /** What the stand-in relay found. */
  authentication: 'pass' | 'fail' | 'none'
  mailFrom?: string
  /** One of ours sends it, from the office network: it does not come by the relay. */
  inside?: boolean
}

const encoder = new TextEncoder()

/**
 * A message as the stand-in relay hands it over: its trace and its Authentication-Results on top (RFC 8601).
 * @param client the server that sends it to the relay; null for no relay
 */
export function compose(mail: DemoMail, id: string, date: Date, client: string | null): Uint8Array {
  const domain = mail.from.address.slice(mail.from.address.lastIndexOf('@') + 1)
  const when = rfcDate(date)
  const { type, encoding, body } = content(mail, id)
  const lines = [
    ...(mail.inside || client === null
      ? []
      : [
          `Authentication-Results: ${STAND_IN_RELAY.authservId};\r\n dmarc=${mail.authentication} header.from=${domain}`,
          `Received: from mail.${domain} (mail.${domain} [${client}])\r\n by ${STAND_IN_RELAY.authservId} with ESMTPS id `
          + `${id.replace(/\W/g, '')}\r\n for <${mail.to[0]}>; ${when}`,
        ]),
    `Date: ${when}`,
    `From: ${mailbox(mail.from.name, mail.from.address)}`,
    `To: ${mail.to.join(', ')}`,
    `Subject: ${encodedWord(mail.subject)}`,
    `Message-ID: <${id}@${domain}>`,
    ...(mail.headers ?? []).map(([name, value]) => `${name}: ${value}`),
    'MIME-Version: 1.0',
    `Content-Type: ${type}`,
    ...(encoding ? [`Content-Transfer-Encoding: ${encoding}`] : []),
    '',
    body,
  ]
  return encoder.encode(lines.join('\r\n'))
}

function content(mail: DemoMail, id: string): { type: string, encoding: string | null, body: string } {
  if (mail.as) return mail.as
  const text = { type: 'text/plain; charset=utf-8', encoding: '8bit', body: crlf(mail.text) }
  const readable =
    mail.html === undefined
      ? text
      : multipart('alternative', `${id}-a`, [text, { type: 'text/html; charset=utf-8', encoding: '8bit', body: crlf(mail.html) }])
  if (!mail.attachments?.length) return readable
  return multipart('mixed', `${id}-m`, [
    readable,
    ...mail.attachments.map(a => ({
      type: `${a.type}; name="${a.name}"\r\nContent-Disposition: attachment; filename="${a.name}"`,
      encoding: 'base64',
      body: base64(a.bytes),
    })),
  ])
}

function multipart(kind: string, boundary: string, parts: { type: string, encoding: string | null, body: string }[]) {
  const body = parts
    .map(
      p =>
        `--${boundary}\r\nContent-Type: ${p.type}\r\n${p.encoding ? `Content-Transfer-Encoding: ${p.encoding}\r\n` : ''}\r\n${p.body}\r\n`,
    )
    .join('')
  return { type: `multipart/${kind}; boundary="${boundary}"`, encoding: null, body: `${body}--${boundary}--\r\n` }
}

function mailbox(name: string, address: string): string {
  return /^[\x20-\x7E]*$/.test(name) ? `"${name.replace(/["\\]/g, '\\$&')}" <${address}>` : `${encodedWord(name)} <${address}>`
}

function encodedWord(text: string): string {
  return encodedWords(text).join('\r\n ')
}

function base64(bytes: Uint8Array): string {
  const text = btoa(String.fromCharCode(...bytes))
  return text.replace(/.{76}(?=.)/g, '$&\r\n')
}

function crlf(text: string): string {
  return text.replace(/\r?\n/g, '\r\n')
}

function rfcDate(date: Date): string {
  return date.toUTCString().replace('GMT', '+0000')
}
