import { eq } from 'drizzle-orm'
import { PARSER_VERSION, type Content } from '#core'
import type { Copy } from '../access/copy-access'
import { db, type Db, type Tx } from '../db/client'
import { attempts, messages, sources } from '../db/schema'
import { storedEnvelope, type StoredEnvelope } from './stored-envelope'
import { storedContent } from './intake-rows'
import { readContent } from './reading'

type MessageRow = typeof messages.$inferSelect

/** A message as it is kept, ready to be decided again as if its bytes were. */
export interface StoredMessage extends StoredEnvelope {
  /** What it says; or its bytes, where what is stored says less, or was read by an older parser. */
  read: { content: Content } | { bytes: Buffer }
}

/** The bytes as they were received; null where only the record was kept. */
export async function sourceOf(messageId: number, at: Db | Tx = db()): Promise<Buffer | null> {
  const [row] = await at.select({ raw: sources.raw }).from(sources).where(eq(sources.messageId, messageId))
  return row?.raw ?? null
}

/**
 * What is needed to decide a copy again: it is decided as its bytes would be. Null where that cannot be, since of refused and
 * erased mail only the record was kept.
 */
export async function storedMessage(
  copy: Pick<Copy, 'messageId' | 'attemptId' | 'recipient'>,
  at: Db | Tx = db(),
): Promise<StoredMessage | null> {
  const [message] = await at.select().from(messages).where(eq(messages.id, copy.messageId))
  const [attempt] = await at.select().from(attempts).where(eq(attempts.id, copy.attemptId))
  if (!message || !attempt) return null
  const read = saysAll(message) ? { content: message.facts } : await bytesOf(copy.messageId, at)
  return read && { read, ...storedEnvelope(attempt, copy.recipient) }
}

async function bytesOf(messageId: number, at: Db | Tx): Promise<{ bytes: Buffer } | null> {
  const bytes = await sourceOf(messageId, at)
  return bytes && { bytes }
}

function saysAll({ whole, parser }: MessageRow): boolean {
  return whole && parser === PARSER_VERSION
}

/** What is shown of a message. Where an older parser read it, it is read anew. */
export async function contentToShow(message: MessageRow): Promise<Content> {
  if (message.parser === PARSER_VERSION) return message.facts
  const bytes = await sourceOf(message.id)
  return bytes ? storedContent(await readContent(bytes)) : message.facts
}
