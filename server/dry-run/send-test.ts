import { randomUUID } from 'node:crypto'
import { and, desc, eq, gte } from 'drizzle-orm'
import { createTransport } from 'nodemailer'
import { makeAddress, peopleOf } from '#core'
import { can, type Actor } from '../access/roles'
import { db } from '../db/client'
import { attempts, copies } from '../db/schema'
import { Slots } from '../platform/slots'
import { invalid, notAllowed, Problem } from '../platform/problem'
import { activePolicy } from '../policy/active-policy'
import { linesOf, type CopyView } from '../copies/copies'
import { compose } from './dry-run'

/** A test message that is really sent. */
export interface SendingForm {
  recipient: string
  from: string
  subject: string
  text: string
}

/** What became of it. */
export interface Sent {
  /** What the port that takes mail answered (RFC 5321 4.2), and after how many milliseconds. */
  reply: string
  accepted: boolean
  took: number
  /** Where it is; null where it was not taken. */
  copy: CopyView | null
}

const PATIENCE = 30_000
// One at a time, of everybody together few: it is mail that is kept.
const sending = new Slots(1)

/** Sends a test message over SMTP to the port that takes mail here, unverified as from any stranger, and follows it in. */
export async function sendTest(actor: Actor, form: SendingForm): Promise<Sent> {
  const recipient = makeAddress(form.recipient)
  if (!recipient.local || !recipient.domain) throw invalid('Enter the recipient.', { recipient: 'Write it as name@domain.' })
  const { envelopeLists } = await activePolicy()
  const here = peopleOf(envelopeLists.compiled, recipient)
  if (!can(actor, 'test as anyone') && !here.some(p => p.id === actor.id))
    throw notAllowed('You can send test messages to your own addresses only; administrators can send them to any user.')
  const raw = await compose({ ...form, messageId: `<${randomUUID()}@test-message.invalid>` })
  return sending.take(actor.id, async () => {
    const begun = Date.now()
    const { reply, accepted } = await handOver(raw, makeAddress(form.from).key, form.recipient)
    const took = Date.now() - begun
    return { reply, accepted, took, copy: await arrivedSince(actor, form.recipient, new Date(begun - 1000)) }
  })
}

async function handOver(raw: Buffer, from: string, to: string): Promise<{ reply: string, accepted: boolean }> {
  const transport = createTransport({
    host: process.env.SMTP_HOST ?? '127.0.0.1',
    port: Number(process.env.SMTP_PORT ?? 2525),
    ignoreTLS: true,
    connectionTimeout: PATIENCE,
    socketTimeout: PATIENCE,
  })
  try {
    const { response } = await transport.sendMail({ envelope: { from, to }, raw })
    return { reply: response, accepted: true }
  }
  catch (error) {
    const { response } = error as { response?: string }
    // A refusal is an answer, too.
    if (response) return { reply: response, accepted: false }
    throw new Problem(
      502,
      'Not sent',
      `The SMTP port does not answer: ${error instanceof Error ? error.message : String(error)}`,
    )
  }
  finally {
    transport.close()
  }
}

async function arrivedSince(actor: Actor, recipient: string, since: Date): Promise<CopyView | null> {
  const [row] = await db()
    .select({ id: copies.id })
    .from(copies)
    .innerJoin(attempts, eq(attempts.id, copies.attemptId))
    .where(and(eq(attempts.rcptTo, recipient), gte(attempts.at, since)))
    .orderBy(desc(copies.id))
    .limit(1)
  return row ? ((await linesOf(actor, [row.id]))[0] ?? null) : null
}
