import { randomUUID } from 'node:crypto'
import { and, eq } from 'drizzle-orm'
import { decideEnvelope, directionOf, makeAddress, personOf, refusalReply, senderKeys, settleDoor, type Attempt, type Content, type DoorRuling, type Envelope, type Message, type Policy, type Ruling } from '#core'
import { db, type Tx } from '../db/client'
import { attempts, copies, messages, people, sources } from '../db/schema'
import { cleanJson, cleanText, indexKey } from './clean-text'
import { keepRuling, stateByRuling } from './copy-ruling'
import { readAndDecide } from './workers'
import { policyInForce, type InForce } from './policy-in-force'

export type Source = 'smtp' | 'import' | 'demo'

/** What became of one recipient's copy. */
export interface Received {
  recipient: string
  copyId: number
  ruling: Ruling | null
  /** The same message came before; nothing new was made. */
  repeat: boolean
}

const INDEXED_TEXT = 256 * 1024
const STORED_TEXT = 256 * 1024
const STORED_HEADERS = 200

/** What the door answers for a whole message. */
export interface Taken {
  /** The reply of the refusal if all copies are refused; then nothing was taken. */
  refusal: string | null
  copies: Received[]
}

/**
 * Takes a message in for its recipients: reads it, decides each copy, looks at all of them together, and commits message,
 * copies and rulings together. When this returns, nothing of it can be lost. A repeat (same Message-ID, same content,
 * same recipient, the earlier one accepted) makes no second copy; a refused one is decided afresh.
 */
export async function receive(bytes: Uint8Array, envelope: Envelope, source: Source): Promise<Taken> {
  const { policy, lists, edition } = await policyInForce()
  const { message, rulings } = await readAndDecide({ bytes, envelope, recipients: envelope.rcptTo, context: { now: envelope.receivedAt } }, edition)
  const { refusal, rulings: decided } = settleDoor(rulings)
  const kept = decided.some(r => r.lane !== 'refused' && r.lane !== 'dropped')
  const copies = await db().transaction(async (tx) => {
    const postmaster = envelope.rcptTo.some(isPostmaster) ? await firstAdministrator(tx) : null
    const messageRow = await keepMessage(tx, kept ? message.content : withoutText(message.content, decided.some(r => r.stop?.to !== 'drop')), kept ? bytes : null, message)
    const transaction = randomUUID()
    const out: Received[] = []
    for (const ruling of decided) {
      const { recipient } = ruling
      const attemptId = await keepAttempt(tx, { ...message.attempt, direction: directionOf(message.attempt, makeAddress(recipient), policy.trust) }, { transaction, source, recipient, messageId: messageRow, ...(refusal === null ? { code: 250, reply: 'accepted' } : { code: 550, reply: refusal }) })
      const person = personOf(lists.compiled, makeAddress(recipient))?.id ?? (isPostmaster(recipient) ? postmaster : null)
      out.push(await keepCopy(tx, message, { messageRow, attemptId, person, ruling }))
    }
    return out
  })
  return { refusal, copies }
}

/** Whether a recipient is refused before the content; the reply of the refusal, or null. */
export async function refusedByEnvelope(envelope: Envelope, recipient: string): Promise<string | null> {
  const { policy, lists } = await policyInForce()
  const ruling = decideEnvelope(envelope, recipient, policy, lists, { now: envelope.receivedAt })
  return ruling && refusalReply(ruling)
}

// Refused and erased mail keeps its envelope facts; dropped mail not even its subject.
function withoutText(content: Content, subject: boolean): Content {
  return { ...content, subject: subject ? content.subject : '', segments: [], headers: [], links: [], attachments: [] }
}

/** True if the address is somebody's here: a person's, or postmaster of a domain of ours, or of none (RFC 5321 4.5.1). */
export function isKnownRecipient({ lists, policy }: InForce, recipient: string): boolean {
  return personOf(lists.compiled, makeAddress(recipient)) !== null || isPostmasterOfOurs(policy, recipient)
}

function isPostmaster(recipient: string): boolean {
  return makeAddress(recipient).keyWithoutTag.startsWith('postmaster@')
}

function isPostmasterOfOurs(policy: Policy, recipient: string): boolean {
  const { domain } = makeAddress(recipient)
  return isPostmaster(recipient) && (domain === '' || policy.trust.ownDomains.includes(domain))
}

async function firstAdministrator(tx: Tx): Promise<string | null> {
  const [row] = await tx.select({ id: people.id }).from(people).where(eq(people.role, 'administrator')).orderBy(people.createdAt, people.id).limit(1)
  return row?.id ?? null
}

/** An attempt that was not accepted goes on record too. */
export async function recordRefusedAttempt(envelope: Envelope, source: Source, code: number, reply: string, transaction = randomUUID()): Promise<void> {
  const recipients: (string | null)[] = envelope.rcptTo.length ? envelope.rcptTo : [null]
  await db().insert(attempts).values(recipients.map(recipient => ({
    transaction, at: new Date(envelope.receivedAt), client: envelope.client, helo: textOrNull(envelope.helo), mailFrom: textOrNull(envelope.mailFrom),
    rcptTo: recipient === null ? null : indexKey(makeAddress(recipient).key), tls: envelope.tls, source, replyCode: code, reply: cleanText(reply),
  })))
}

function textOrNull(text: string | null): string | null {
  return text === null ? null : indexKey(text)
}

async function keepMessage(tx: Tx, content: Content, bytes: Uint8Array | null, message: Message): Promise<number> {
  const facts = cleanJson(storedContent(content))
  const values = {
    contentHash: content.hash,
    messageId: content.messageId === null ? null : indexKey(content.messageId),
    subject: cleanText(content.subject).slice(0, 4000),
    size: content.size,
    parser: content.parser,
    facts,
    senderKeys: [...new Set(message.content.from.flatMap(senderKeys).map(indexKey))].slice(0, 200),
    listId: content.list.id === null ? null : indexKey(content.list.id),
    searchText: searchText(content),
  }
  const [made] = await tx.insert(messages).values(values).onConflictDoNothing({ target: messages.contentHash }).returning({ id: messages.id })
  const [there] = made ? [made] : await tx.select({ id: messages.id }).from(messages).where(eq(messages.contentHash, content.hash))
  if (bytes) {
    const [stored] = await tx.insert(sources).values({ messageId: there!.id, raw: Buffer.from(bytes) }).onConflictDoNothing().returning({ id: sources.messageId })
    // It was refused or erased before, without its text; now it is taken.
    if (stored && !made) await tx.update(messages).set(values).where(eq(messages.id, there!.id))
  }
  return there!.id
}

// What is shown later is capped; the source keeps everything.
function storedContent(content: Content): Content {
  let room = STORED_TEXT
  return {
    ...content,
    segments: content.segments.map((s) => {
      const text = s.text.slice(0, Math.max(0, room))
      room -= text.length
      return { ...s, text }
    }),
    headers: content.headers.slice(0, STORED_HEADERS).map(h => ({ name: h.name, raw: h.raw.slice(0, 4000), value: h.value.slice(0, 4000) })),
    to: content.to.slice(0, 100),
    cc: content.cc.slice(0, 100),
    links: content.links.slice(0, 100).map(l => ({ target: l.target.slice(0, 2000), text: l.text.slice(0, 500) })),
    attachments: content.attachments.slice(0, 200).map(a => a.text === undefined ? a : { ...a, text: a.text.slice(0, 20_000) }),
  }
}

// Addresses are indexed whole and in their pieces, so that part of a domain finds them.
function searchText(content: Content): string {
  const addresses = [...content.from, ...content.replyTo].flatMap(a => [a.name, `${a.local}@${a.domainUnicode}`, a.local, ...a.domainUnicode.split(/[.-]/)])
  const text = [content.subject, ...addresses, ...content.attachments.map(a => a.name), ...content.segments.slice(1).map(s => s.text)].join('\n')
  return Buffer.from(cleanText(text)).subarray(0, INDEXED_TEXT).toString('utf8').replace(/\uFFFD$/, '')
}

async function keepAttempt(tx: Tx, attempt: Attempt, what: { transaction: string, source: Source, recipient: string, messageId: number, code: number, reply: string }): Promise<number> {
  const { envelope } = attempt
  const [row] = await tx.insert(attempts).values({
    transaction: what.transaction, at: new Date(envelope.receivedAt), client: attempt.client ?? envelope.client, helo: textOrNull(envelope.helo), mailFrom: textOrNull(envelope.mailFrom),
    rcptTo: indexKey(what.recipient), tls: envelope.tls, source: what.source, authentication: cleanJson(attempt.authentication), direction: attempt.direction,
    defects: cleanJson(attempt.defects), replyCode: what.code, reply: what.reply, messageId: what.messageId,
  }).returning({ id: attempts.id })
  return row!.id
}

async function keepCopy(tx: Tx, message: Message, what: { messageRow: number, attemptId: number, person: string | null, ruling: DoorRuling }): Promise<Received> {
  const { ruling } = what
  const { recipient } = ruling
  const sender = message.content.from[0] ?? message.attempt.envelopeSender
  const receivedAt = new Date(message.attempt.envelope.receivedAt)
  const state = { attemptId: what.attemptId, ...stateByRuling(ruling, message.content), laneSince: receivedAt, receivedAt }
  const [made] = await tx.insert(copies).values({
    ...state, messageId: what.messageRow, recipient: indexKey(recipient), personId: what.person,
    senderAddress: indexKey(sender?.key ?? ''), senderDomain: indexKey(sender?.domain ?? ''), senderName: indexKey(sender?.name ?? ''),
  }).onConflictDoNothing().returning({ id: copies.id })
  let copyId = made?.id
  if (copyId === undefined) {
    const [earlier] = await tx.select().from(copies).where(and(eq(copies.messageId, what.messageRow), eq(copies.recipient, indexKey(recipient)))).for('update')
    if (earlier!.lane !== 'refused') return { recipient, copyId: earlier!.id, ruling: null, repeat: true }
    copyId = earlier!.id
    await tx.update(copies).set({ ...state, version: earlier!.version + 1 }).where(eq(copies.id, copyId))
  }
  await keepRuling(tx, copyId, ruling, receivedAt)
  return { recipient, copyId, ruling, repeat: false }
}
