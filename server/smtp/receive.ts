import type { SMTPServerAddress, SMTPServerSession } from 'smtp-server'
import type { Envelope } from '#core'
import { isDatabaseAway } from '../db/client'
import { isKnownRecipient, receive, recordRefusedAttempt, refusedByEnvelope } from '../intake/intake'
import { faultText, log, tellOfDatabase } from '../platform/log'
import { Problem } from '../platform/problem'
import { activePolicy } from '../policy/active-policy'
import { ConnectionGuard } from './connection-guard'
import { MAX_MESSAGE_BYTES, smtpLimits } from './limits'

const TOO_LARGE = `5.3.4 Message too large; the limit is ${MAX_MESSAGE_BYTES / 1024 / 1024} MB (RFC 1870)`
const TRY_LATER = '4.3.0 Message not accepted: storage is temporarily unavailable. Try again later'

class Reply extends Error {
  constructor(
    readonly responseCode: number,
    message: string,
  ) {
    super(message)
  }
}

/** Nobody here has the recipient's address. */
class Stranger extends Reply {}

/**
 * Takes mail in over SMTP (RFC 5321). 250 after the data means: message, copies and decisions are committed.
 * @returns a function that stops taking mail and waits for the transactions under way
 */
export async function listenSmtp(port: number, host: string): Promise<() => Promise<void>> {
  const limits = smtpLimits()
  const strangers = new WeakMap<SMTPServerSession, number>()
  const server: ConnectionGuard = new ConnectionGuard(
    {
      name: process.env.SOBER_GATE_SMTP_NAME ?? 'sober-gate.invalid',
      banner: 'Sober Gate',
      disabledCommands: ['AUTH', 'STARTTLS'],
      disableReverseLookup: true,
      size: MAX_MESSAGE_BYTES,
      // A too large SIZE parameter is then seen in onMailFrom, where the refusal goes on record.
      hideSize: true,
      lenientAddressParsing: true,
      closeTimeout: 5000,
      // Its own clock starts anew with every byte; ours are the connection guard's.
      socketTimeout: limits.transactionSeconds * 1000,
      maxRecipients: limits.recipients,
      onMailFrom(address, session, callback) {
        const unknown = unknownParameter(address, MAIL_PARAMETERS)
        if (unknown) return callback(unknown)
        const declared = address.args === false ? 0 : Number(address.args.SIZE ?? 0)
        if (declared > MAX_MESSAGE_BYTES) void refuse(envelopeOf(session, address.address, []), 552, TOO_LARGE).then(callback)
        else callback()
      },
      onRcptTo(address, session, callback) {
        const unknown = unknownParameter(address, RCPT_PARAMETERS)
        if (unknown) return callback(unknown)
        void answerRecipient(session, address.address).then(
          () => callback(),
          (error: Reply) => {
            const guesses = (strangers.get(session) ?? 0) + Number(error instanceof Stranger)
            strangers.set(session, guesses)
            callback(
              guesses > limits.unknownRecipients
                ? new Reply(421, `4.7.1 Too many unknown recipients (more than ${limits.unknownRecipients})`)
                : error,
            )
          },
        )
      },
      onData(stream, session, callback) {
        const chunks: Buffer[] = []
        stream.on('data', (chunk: Buffer) => {
          if (!stream.sizeExceeded) chunks.push(chunk)
          else chunks.length = 0
        })
        stream.once('end', () => {
          const envelope = envelopeOf(
            session,
            senderOf(session),
            session.envelope.rcptTo.map(r => r.address),
          )
          server.working(session)
          const answer = (error: Error | null, text?: string) => {
            server.answered(session)
            callback(error, text)
          }
          if (stream.sizeExceeded) void refuse(envelope, 552, TOO_LARGE).then(answer)
          else void take(Buffer.concat(chunks), envelope).then(text => answer(null, text), answer)
        })
      },
    },
    limits,
  )
  server.on('error', error => log.warn({ error: error.message }, 'an SMTP connection failed'))
  await new Promise<void>((resolve, reject) => {
    server.server.once('error', reject)
    server.listen(port, host, () => {
      server.server.off('error', reject)
      resolve()
    })
  })
  return () => server.stop()
}

// RFC 1870, RFC 6152, RFC 6531: what EHLO offers. There is none for RCPT.
const MAIL_PARAMETERS: readonly string[] = ['SIZE', 'BODY', 'SMTPUTF8']
const RCPT_PARAMETERS: readonly string[] = []

function unknownParameter({ args }: SMTPServerAddress, known: readonly string[]): Reply | null {
  const unknown = Object.keys(args || {}).find(name => !known.includes(name.toUpperCase()))
  return unknown === undefined ? null : new Reply(555, '5.5.4 Parameter of this command not recognised (RFC 5321 4.1.1.11)')
}

function senderOf(session: SMTPServerSession): string {
  return session.envelope.mailFrom === false ? '' : session.envelope.mailFrom.address
}

function envelopeOf(session: SMTPServerSession, mailFrom: string, rcptTo: string[]): Envelope {
  return {
    mailFrom,
    rcptTo,
    client: session.remoteAddress,
    helo: session.hostNameAppearsAs || null,
    tls: session.secure,
    user: null,
    receivedAt: new Date().toISOString(),
  }
}

async function answerRecipient(session: SMTPServerSession, address: string): Promise<void> {
  try {
    if (isKnownRecipient(await activePolicy(), address)) {
      const envelope = envelopeOf(session, senderOf(session), [address])
      const refusal = await refusedByEnvelope(envelope, address)
      if (refusal === null) return
      return Promise.reject(await refuse(envelope, 550, refusal))
    }
  }
  catch (error) {
    throw later(error)
  }
  const { responseCode, message } = await refuse(
    envelopeOf(session, senderOf(session), [address]),
    550,
    `5.1.1 Mailbox ${address} does not exist`,
  )
  throw responseCode === 550 ? new Stranger(responseCode, message) : new Reply(responseCode, message)
}

async function take(bytes: Buffer, envelope: Envelope): Promise<string> {
  try {
    const { refusal, copies: received } = await receive(bytes, envelope, 'smtp')
    if (refusal !== null) return Promise.reject(new Reply(550, refusal))
    return `2.0.0 Message accepted${received.every(r => r.repeat) ? ' (already received before)' : ''}`
  }
  catch (error) {
    throw later(error)
  }
}

// Whatever goes wrong here is our side's: the client keeps the message and comes again.
function later(error: unknown): Reply {
  if (isDatabaseAway(error)) tellOfDatabase(error)
  else log.error({ error: error instanceof Problem ? error.detail : faultText(error) }, 'a message could not be taken in')
  return new Reply(451, TRY_LATER)
}

async function refuse(envelope: Envelope, code: number, text: string): Promise<Reply> {
  try {
    await recordRefusedAttempt(envelope, 'smtp', { code, text })
  }
  catch (error) {
    // A refusal that cannot be put on record is not given: the client comes again.
    return later(error)
  }
  return new Reply(code, text)
}
