import { eq, inArray, sql, type SQL } from 'drizzle-orm'
import { WordCollector } from '#core/text'
import type { ShortReason } from '#core/words'
import type { Tx } from '../db/client'
import { copies, messages, openedHtml, sources } from '../db/schema'
import { sayErased } from '../db/erased'
import { searchColumn } from '../db/search'

/** Nobody asks for this copy and waits for an answer. */
export const NOT_ASKED_FOR: SQL = sql`not exists (select 1 from release_requests r where r.copy_id = ${copies.id} and r.state = 'open')`

/**
 * When a copy's days begin: since it lies there; but what was brought in from elsewhere, with its old dates, not before it came.
 */
export const HERE_SINCE: SQL<Date> =
  sql`greatest(${copies.laneSince}, (select m.created_at from messages m where m.id = ${copies.messageId}))`

/** Copies that have lain where they lie since before an instant. */
export function hereBefore(instant: Date): SQL {
  return sql`${copies.laneSince} < ${instant} and ${HERE_SINCE} < ${instant}`
}

/**
 * Erases locked copies: what is left is their record, and the facts of the envelope. A message of which somebody still has a copy
 * stays whole.
 * @param reason why, as a list of messages says it
 */
export async function eraseRows(tx: Tx, rows: readonly { id: number, messageId: number }[], reason: ShortReason): Promise<void> {
  if (!rows.length) return
  await tx
    .update(copies)
    .set({
      lane: 'discarded',
      erased: true,
      laneSince: new Date(),
      movedBy: null,
      reason,
      version: sql`${copies.version} + 1`,
    })
    .where(inArray(copies.id, rows.map(r => r.id)))
  await eraseWhatIsNobodys(tx, [...new Set(rows.map(r => r.messageId))])
}

async function eraseWhatIsNobodys(tx: Tx, ids: readonly number[]): Promise<void> {
  const kept = await tx
    .selectDistinct({ id: copies.messageId })
    .from(copies)
    .where(sql`${inArray(copies.messageId, [...ids])} and ${copies.lane} not in ('discarded', 'refused')`)
  const gone = ids.filter(id => !kept.some(k => k.id === id))
  if (!gone.length) return
  await tx.delete(sources).where(inArray(sources.messageId, gone))
  await tx.delete(openedHtml).where(inArray(openedHtml.messageId, gone))
  const left = await tx.select({ id: messages.id, subject: messages.subject }).from(messages).where(inArray(messages.id, gone))
  for (const { id, subject } of left) {
    const words = new WordCollector()
    words.add(subject)
    await tx
      .update(messages)
      .set({
        facts: sql`${messages.facts} || '{"segments": [], "headers": [], "links": [], "attachments": []}'::jsonb`,
        whole: false,
        search: searchColumn([...words.words]),
      })
      .where(eq(messages.id, id))
  }
  await sayErased(tx, gone)
}
