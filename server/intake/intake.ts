import { randomUUID } from 'node:crypto'
import { eq } from 'drizzle-orm'
import { decideEnvelope, makeAddress, peopleOf, refusalReply, type Envelope, type Lane, type Policy } from '#core'
import { mailDb } from '../db/client'
import { attempts, people } from '../db/schema'
import { cleanText, indexKey } from '../platform/clean-text'
import { textOrNull, type Source } from './intake-rows'
import { storeMail } from './intake-store'
import { activePolicy, type ActivePolicy } from '../policy/active-policy'
import { verifyIncoming } from '../verification/verification'
import { readForStorage } from './reading'

/** What became of one recipient's copy. */
export interface Received {
  recipient: string
  copyId: number
  lane: Lane
  /** The same message came before; nothing new was made. */
  repeat: boolean
}

/** What the door answers for a whole message. */
export interface Taken {
  /** The reply of the refusal if all copies are refused; then nothing was taken. */
  refusal: string | null
  copies: Received[]
}

/**
 * Takes a message in for its recipients: reads it, decides each copy, looks at all of them together, and commits message,
 * copies and decisions together. When this returns, nothing of it can be lost. A repeat (same Message-ID, same content,
 * same recipient, the earlier one accepted) makes no second copy; a refused one is decided afresh. Recipients that differ in
 * their tag only (RFC 5233) get one copy.
 */
export async function receive(bytes: Uint8Array, storedEnvelope: Envelope, source: Source): Promise<Taken> {
  const { edition, policy } = await activePolicy()
  const envelope = { ...storedEnvelope, rcptTo: onePerMailbox(storedEnvelope.rcptTo) }
  // Imports are not verified, nor is what a trusted relay says.
  const verified = source === 'import' ? null : await verifyIncoming(bytes, envelope, policy.trust)
  const postmaster = envelope.rcptTo.some(isPostmaster) ? await firstAdministrator() : null
  const { refusal, kept, contentHash, messageJson, copies } = await readForStorage(
    {
      read: { bytes },
      envelope,
      source,
      transaction: randomUUID(),
      postmaster,
      context: { now: envelope.receivedAt },
      ...(verified ? { attempt: { authentication: verified } } : {}),
    },
    edition,
  )
  const raw = kept ? Buffer.from(bytes.buffer, bytes.byteOffset, bytes.byteLength) : null
  const stored = await storeMail({ contentHash, messageJson, copiesJson: copies.map(c => c.json), raw })
  return {
    refusal,
    copies: copies.map((c, i) => ({
      recipient: c.recipient,
      copyId: stored[i]!.copyId,
      repeat: stored[i]!.repeat,
      lane: stored[i]!.repeat ? stored[i]!.lane : c.lane,
    })),
  }
}

// A thousand tags of one address are one mailbox, and one copy: the first of them stands for all.
function onePerMailbox(recipients: readonly string[]): string[] {
  const seen = new Map<string, string>()
  for (const recipient of recipients) {
    const { keyWithoutTag } = makeAddress(recipient)
    if (!seen.has(keyWithoutTag)) seen.set(keyWithoutTag, recipient)
  }
  return [...seen.values()]
}

/** Whether a recipient is refused before the content; the reply of the refusal, or null. */
export async function refusedByEnvelope(envelope: Envelope, recipient: string): Promise<string | null> {
  const { policy, envelopeLists } = await activePolicy()
  const decision = decideEnvelope({ envelope, recipient, context: { now: envelope.receivedAt } }, policy, envelopeLists)
  return decision && refusalReply(decision)
}

/** True if the address is somebody's here: a person's, or postmaster of a domain of ours, or of none (RFC 5321 4.5.1). */
export function isKnownRecipient({ envelopeLists, policy }: ActivePolicy, recipient: string): boolean {
  return peopleOf(envelopeLists.compiled, makeAddress(recipient)).length > 0 || isPostmasterOfOurs(policy, recipient)
}

function isPostmaster(recipient: string): boolean {
  return makeAddress(recipient).keyWithoutTag.startsWith('postmaster@')
}

function isPostmasterOfOurs(policy: Policy, recipient: string): boolean {
  const { domain } = makeAddress(recipient)
  return isPostmaster(recipient) && (domain === '' || policy.trust.ownDomains.includes(domain))
}

async function firstAdministrator(): Promise<string | null> {
  const [row] = await mailDb()
    .select({ id: people.id })
    .from(people)
    .where(eq(people.role, 'administrator'))
    .orderBy(people.createdAt, people.id)
    .limit(1)
  return row?.id ?? null
}

/** An attempt that was not accepted goes on record too. */
export async function recordRefusedAttempt(
  envelope: Envelope,
  source: Source,
  { code, text }: { code: number, text: string },
): Promise<void> {
  const transaction = randomUUID()
  const recipients: (string | null)[] = envelope.rcptTo.length ? envelope.rcptTo : [null]
  await mailDb()
    .insert(attempts)
    .values(
      recipients.map(recipient => ({
        transaction,
        at: new Date(envelope.receivedAt),
        client: envelope.client,
        helo: textOrNull(envelope.helo),
        mailFrom: textOrNull(envelope.mailFrom),
        rcptTo: recipient === null ? null : indexKey(makeAddress(recipient).key),
        tls: envelope.tls,
        source,
        replyCode: code,
        reply: cleanText(text),
      })),
    )
}
