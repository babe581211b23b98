import { and, desc, eq, ilike, isNotNull, ne, sql, type SQL } from 'drizzle-orm'
import { visibleTo } from '../access/copy-access'
import type { Actor } from '../access/roles'
import { literally } from '../db/asking'
import { db } from '../db/client'
import { copies, messages } from '../db/schema'

export const SENDER_KINDS = ['address', 'domain', 'mailingList'] as const

/** Who sent mail that is here: an address, a domain with all its addresses, or a mailing list. */
export interface KnownSender {
  kind: (typeof SENDER_KINDS)[number]
  value: string
  /** Of an address, as it last called itself; else empty. */
  name: string
  /** Messages that the actor sees, one per recipient. */
  messages: number
  /** Of those, verified. */
  verified: number
}

export interface SendersAsked {
  /** Part of an address, a name, a domain or a List-Id; empty: whoever sent most. */
  words: string
  kinds: KnownSender['kind'][]
  limit: number
}

const messageCount = sql<number>`count(*)::int`
const verified = sql<number>`(count(*) filter (where ${copies.verdict} = 'pass'))::int`

/** Senders of the mail that the actor sees, those with most messages first. Of colleagues' mail nobody learns who sent it. */
export async function knownSenders(actor: Actor, { words, kinds, limit }: SendersAsked): Promise<KnownSender[]> {
  const like = `%${literally(words)}%`
  const seen = visibleTo(actor)
  const of = { address: addresses, domain: domains, mailingList: lists }
  const found = (await Promise.all(kinds.map(kind => of[kind](seen, like, limit)))).flat()
  return found.sort((a, b) => b.messages - a.messages).slice(0, limit)
}

async function addresses(seen: SQL | undefined, like: string, limit: number): Promise<KnownSender[]> {
  const rows = await db()
    .select({
      value: copies.senderAddress,
      name: sql<string>`(array_agg(${copies.senderName} order by ${copies.receivedAt} desc))[1]`,
      messages: messageCount,
      verified,
    })
    .from(copies)
    // As the index of parts of addresses and names has it.
    .where(and(seen, ne(copies.senderAddress, ''), sql`(sender_address || ' ' || sender_name) ilike ${like}`))
    .groupBy(copies.senderAddress)
    .orderBy(desc(messageCount), copies.senderAddress)
    .limit(limit)
  return rows.map(r => ({ kind: 'address', ...r }))
}

async function domains(seen: SQL | undefined, like: string, limit: number): Promise<KnownSender[]> {
  const rows = await db()
    .select({ value: copies.senderDomain, messages: messageCount, verified })
    .from(copies)
    .where(and(seen, ne(copies.senderDomain, ''), ilike(copies.senderDomain, like)))
    .groupBy(copies.senderDomain)
    .orderBy(desc(messageCount), copies.senderDomain)
    .limit(limit)
  return rows.map(r => ({ kind: 'domain', name: '', ...r }))
}

async function lists(seen: SQL | undefined, like: string, limit: number): Promise<KnownSender[]> {
  const rows = await db()
    .select({ value: messages.listId, messages: messageCount, verified })
    .from(messages)
    .innerJoin(copies, eq(copies.messageId, messages.id))
    .where(and(seen, isNotNull(messages.listId), ilike(messages.listId, like)))
    .groupBy(messages.listId)
    .orderBy(desc(messageCount), messages.listId)
    .limit(limit)
  return rows.map(({ value, ...r }) => ({ kind: 'mailingList', name: '', value: value!, ...r }))
}
