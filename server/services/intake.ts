import { randomUUID } from 'node:crypto'
import { and, eq } from 'drizzle-orm'
import { decide, makeAddress, personOf, senderKeys, type Attempt, type Content, type Envelope, type CompiledPolicy, type Message, type Policy, type Ruling } from '#core'
import { shortReason } from '#core/words'
import { db, type Tx } from '../db/client'
import { attempts, copies, messages, people, rulingClaims, rulings, sources } from '../db/schema'
import { cleanJson, cleanText, indexKey } from './clean-text'
import { readMessage } from './parsing'
import { policyInForce } from './policy-in-force'

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

/**
 * Takes a message in for its recipients: reads it, decides each copy, and commits message, copies and rulings together.
 * When this returns, nothing of it can be lost. A repeat (same Message-ID, same content, same recipient) makes no
 * second copy.
 */
export async function receive(bytes: Uint8Array, envelope: Envelope, source: Source): Promise<Received[]> {
  const compiled = await policyInForce()
  const message = await readMessage(bytes, envelope, compiled.policy.trust)
  const decided = envelope.rcptTo.map(recipient => ({
    recipient: makeAddress(recipient).key,
    ruling: decide(message, recipient, compiled, { now: envelope.receivedAt }),
  }))
  return db().transaction(async (tx) => {
    const postmaster = envelope.rcptTo.some(isPostmaster) ? await firstAdministrator(tx) : null
    const messageRow = await keepMessage(tx, message, bytes)
    const transaction = randomUUID()
    const out: Received[] = []
    for (const { recipient, ruling } of decided) {
      const attemptId = await keepAttempt(tx, message.attempt, { transaction, source, recipient, messageId: messageRow, code: 250, reply: 'accepted' })
      const person = personOf(compiled, makeAddress(recipient))?.id ?? (isPostmaster(recipient) ? postmaster : null)
      out.push(await keepCopy(tx, message, { messageRow, attemptId, recipient, person, ruling }))
    }
    return out
  })
}

/** True if the address is somebody's here: a person's, or postmaster of a domain of ours, or of none (RFC 5321 4.5.1). */
export function isKnownRecipient(compiled: CompiledPolicy, recipient: string): boolean {
  return personOf(compiled, makeAddress(recipient)) !== null || isPostmasterOfOurs(compiled.policy, recipient)
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
    transaction, at: new Date(envelope.receivedAt), client: envelope.client, helo: textOrNull(envelope.helo), mailFrom: indexKey(envelope.mailFrom),
    rcptTo: recipient === null ? null : indexKey(makeAddress(recipient).key), tls: envelope.tls, source, replyCode: code, reply: cleanText(reply),
  })))
}

function textOrNull(text: string | null): string | null {
  return text === null ? null : indexKey(text)
}

async function keepMessage(tx: Tx, message: Message, bytes: Uint8Array): Promise<number> {
  const { content } = message
  const facts = cleanJson(storedContent(content))
  const values = {
    contentHash: content.hash,
    messageId: content.messageId === null ? null : indexKey(content.messageId),
    subject: cleanText(content.subject).slice(0, 4000),
    size: content.size,
    parser: content.parser,
    facts,
    senderKeys: [...new Set(content.from.flatMap(senderKeys).map(indexKey))].slice(0, 200),
    listId: content.list.id === null ? null : indexKey(content.list.id),
    searchText: searchText(content),
  }
  const [made] = await tx.insert(messages).values(values).onConflictDoNothing({ target: messages.contentHash }).returning({ id: messages.id })
  if (made) {
    await tx.insert(sources).values({ messageId: made.id, raw: Buffer.from(bytes) })
    return made.id
  }
  const [there] = await tx.select({ id: messages.id }).from(messages).where(eq(messages.contentHash, content.hash))
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
    attachments: content.attachments.slice(0, 200),
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
    transaction: what.transaction, at: new Date(envelope.receivedAt), client: attempt.client ?? envelope.client, helo: textOrNull(envelope.helo), mailFrom: indexKey(envelope.mailFrom),
    rcptTo: indexKey(what.recipient), tls: envelope.tls, source: what.source, authentication: cleanJson(attempt.authentication), direction: attempt.direction,
    defects: cleanJson(attempt.defects), replyCode: what.code, reply: what.reply, messageId: what.messageId,
  }).returning({ id: attempts.id })
  return row!.id
}

async function keepCopy(tx: Tx, message: Message, what: { messageRow: number, attemptId: number, recipient: string, person: string | null, ruling: Ruling }): Promise<Received> {
  const { ruling, recipient } = what
  const sender = message.content.from[0] ?? message.attempt.envelopeSender
  const receivedAt = new Date(message.attempt.envelope.receivedAt)
  const [copy] = await tx.insert(copies).values({
    messageId: what.messageRow, attemptId: what.attemptId, recipient: indexKey(recipient), personId: what.person,
    lane: ruling.lane, quarantineId: ruling.quarantine, folder: ruling.place?.folder ?? null, laneSince: receivedAt, receivedAt,
    tags: ruling.effects.filter(e => e.kind === 'tag').map(e => cleanText(e.value ?? '')),
    important: ruling.effects.some(e => e.kind === 'important') || message.content.important,
    senderAddress: indexKey(sender?.key ?? ''), senderDomain: indexKey(sender?.domain ?? ''), senderName: indexKey(sender?.name ?? ''),
    subject: indexKey(message.content.subject), decided: cleanText(shortReason(ruling)).slice(0, 300),
  }).onConflictDoNothing().returning({ id: copies.id })
  if (!copy) {
    const [earlier] = await tx.select({ id: copies.id }).from(copies).where(and(eq(copies.messageId, what.messageRow), eq(copies.recipient, indexKey(recipient))))
    return { recipient, copyId: earlier!.id, ruling: null, repeat: true }
  }
  const [row] = await tx.insert(rulings).values({
    copyId: copy.id, sequence: 1, policyVersion: ruling.policyVersion, decidedLane: ruling.lane, finalLane: ruling.lane, quarantineId: ruling.quarantine,
    effects: cleanJson(ruling.effects), reasons: cleanJson(ruling.reasons), decidedBy: ruling.decidedBy, at: receivedAt,
  }).returning({ id: rulings.id })
  await tx.update(copies).set({ rulingId: row!.id }).where(eq(copies.id, copy.id))
  if (ruling.reasons.length) {
    await tx.insert(rulingClaims).values(ruling.reasons.map(r => ({
      rulingId: row!.id, copyId: copy.id, clauseKind: r.clause.kind, clauseId: r.clause.id, listId: r.clause.list ?? null, entryId: r.clause.entry?.id ?? null, fate: r.fate.kind,
    })))
  }
  return { recipient, copyId: copy.id, ruling, repeat: false }
}
