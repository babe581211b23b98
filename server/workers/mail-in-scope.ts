import { and, inArray, min, sql, type SQL } from 'drizzle-orm'
import { PARSER_VERSION } from '#core'
import type { Looked } from '#core/simulate'
import type { Db } from '../db/client'
import { DELIVERED, REVIEWED } from '../db/lanes'
import { copies } from '../db/schema'

/** What is here of one sender. */
interface Sender {
  first: Date
  copies: number
  /** Of those, kept away from their recipients. */
  stopped: number
}

/** Figures of the copies over which a change stands: how many there are, and what came of their senders. */
export class MailInScope {
  private total = { copies: 0, delivered: 0, stopped: 0 }
  private unknown = 0
  private readonly senders = new Map<string, Sender>()
  /** How far a simulation came. */
  seen: Looked & { delivered: number, stopped: number, unknown: number } = { looked: 0, inScope: 0, delivered: 0, stopped: 0, unknown: 0 }

  constructor(private readonly db: Db, readonly where: SQL | undefined) {}

  async count(): Promise<void> {
    this.total = await this.counted(undefined)
    // Nothing is left to read of them. Named by their index: they are few.
    const { rows } = await this.db.execute<{ n: number }>(sql`
      select count(*)::int n from ${copies} where ${and(this.where, sql`${copies.messageId} in (
        select m.id from messages m where not m.whole and not exists (select from sources s where s.message_id = m.id)
        union all
        select m.id from messages m where m.whole and m.parser <> ${PARSER_VERSION} and not exists (
          select from sources s where s.message_id = m.id))`)}`)
    this.unknown = rows[0]!.n
    await this.upTo(null)
  }

  /** @param last the oldest copy that was looked at; null where all were */
  async upTo(last: { id: number, at: number } | null): Promise<void> {
    const { copies: looked, ...of } = last
      ? await this.counted(sql`(${copies.receivedAt}, ${copies.id}) >= (to_timestamp(${last.at}::float8), ${last.id}::bigint)`)
      : this.total
    const inScope = this.total.copies
    // By rounding to the clock of JavaScript an instant is not quite the database’s: so far is never all.
    this.seen = { ...of, looked: last ? Math.min(looked, inScope - 1) : looked, inScope, unknown: this.unknown }
  }

  private async counted(upTo: SQL | undefined): Promise<{ copies: number, delivered: number, stopped: number }> {
    const [n] = await this.db
      .select({
        copies: sql<number>`count(*)::int`,
        delivered: sql<number>`(count(*) filter (where ${copies.lane} in (${DELIVERED})))::int`,
        stopped: sql<number>`(count(*) filter (where ${copies.lane} in (${REVIEWED}) and ${copies.lane} not in (${DELIVERED})))::int`,
      })
      .from(copies)
      .where(and(this.where, upTo))
    return n!
  }

  /** Asks what came of these senders, each once. Of the same mail: what others get, and from whom, is nobody else's to know. */
  async learnSenders(addresses: readonly string[]): Promise<void> {
    const missing = [...new Set(addresses)].filter(a => !this.senders.has(a))
    if (!missing.length) return
    const rows = await this.db
      .select({
        sender: copies.senderAddress,
        first: min(copies.receivedAt),
        copies: sql<number>`count(*)::int`,
        stopped: sql<number>`(count(*) filter (where ${copies.lane} not in (${DELIVERED})))::int`,
      })
      .from(copies)
      .where(and(this.where, inArray(copies.senderAddress, missing)))
      .groupBy(copies.senderAddress)
    for (const { sender, first, ...seen } of rows) this.senders.set(sender, { ...seen, first: first! })
  }

  /** What is here of a copy's sender besides it; none of a sender of whom it is the first. */
  beforeOf(address: string, receivedAt: Date): { earlier: number, earlierStopped: number } {
    const sender = this.senders.get(address)
    return !sender || receivedAt <= sender.first
      ? { earlier: 0, earlierStopped: 0 }
      : { earlier: sender.copies - 1, earlierStopped: sender.stopped }
  }
}
