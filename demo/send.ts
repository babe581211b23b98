// The stand-in for the outside: sends a message by real SMTP, straight, or as our relay would hand it over.
import { readFile } from 'node:fs/promises'
import { parseArgs } from 'node:util'
import { createTransport } from 'nodemailer'
import { makeAddress, parseContent } from '#core'
import { signAs } from './sent'
import { STAND_IN_RELAY } from './world'

const HELP = `npm run send -- --to ADDRESS [--sign | --relay] [--auth pass|fail|none] [--port N] (--from A --subject S --text T | FILE)

Sends one message to the port that takes mail. It is a stand-in for other mail servers.
  --sign    sign it by DKIM, as the domain in --from does in the demo
  --relay   connect as the configured relay of the demo (from ${STAND_IN_RELAY.address}) and bear its
            Authentication-Results, so that the sender counts as verified (--auth, pass if not given)
  without   the message comes straight from outside and is unverified
`

async function main(): Promise<void> {
  const { values, positionals } = parseArgs({
    allowPositionals: true,
    options: {
      to: { type: 'string', multiple: true },
      from: { type: 'string' },
      subject: { type: 'string' },
      text: { type: 'string' },
      relay: { type: 'boolean' },
      sign: { type: 'boolean' },
      auth: { type: 'string' },
      port: { type: 'string' },
      help: { type: 'boolean' },
    },
  })
  if (values.help || !values.to?.length || (!positionals[0] && !values.from)) {
    process.stdout.write(HELP)
    process.exitCode = values.help ? 0 : 2
    return
  }
  const raw = positionals[0]
    ? await readFile(positionals[0])
    : Buffer.from(written(values.from!, values.to, values.subject ?? '', values.text ?? ''))
  const from = values.from ?? (await parseContent(raw)).from[0]?.key ?? ''
  const transport = createTransport({
    host: '127.0.0.1',
    port: Number(values.port ?? process.env.SMTP_PORT ?? 2525),
    ignoreTLS: true,
    ...(values.relay ? { localAddress: STAND_IN_RELAY.address } : {}),
  })
  const bytes = values.relay
    ? Buffer.concat([Buffer.from(relayTrace(from, values.to[0]!, values.auth ?? 'pass')), raw])
    : values.sign ? await signAs(makeAddress(/<([^<>]+)>/.exec(from)?.[1] ?? from).domain, raw) : raw
  const info = await transport.sendMail({ envelope: { from: makeAddress(from).key, to: values.to }, raw: bytes })
  process.stdout.write(`${info.response}\n`)
}

function written(from: string, to: string[], subject: string, text: string): string {
  return [
    `From: ${from}`,
    `To: ${to.join(', ')}`,
    `Subject: ${subject}`,
    `Date: ${new Date().toUTCString()}`,
    `Message-ID: <${crypto.randomUUID()}@stand-in.example>`,
    'MIME-Version: 1.0',
    'Content-Type: text/plain; charset=utf-8',
    'Content-Transfer-Encoding: 8bit',
    '',
    text,
    '',
  ].join('\r\n')
}

/** The header fields that the stand-in relay puts on top of what it hands over. */
function relayTrace(from: string, to: string, auth: string): string {
  const { domain } = makeAddress(/<([^<>]+)>/.exec(from)?.[1] ?? from)
  return `Authentication-Results: ${STAND_IN_RELAY.authservId}; dmarc=${auth} header.from=${domain}\r\nReceived: from mail.${domain} `
    + `(mail.${domain} [192.0.2.25])\r\n by ${STAND_IN_RELAY.authservId} with ESMTPS for <${to}>; ${new Date().toUTCString()}\r\n`
}

main().catch((error: unknown) => {
  process.stderr.write(`${error instanceof Error ? error.message : String(error)}\n`)
  process.exitCode = 2
})
