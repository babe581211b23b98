import { and, desc } from 'drizzle-orm'
import type { Rule } from '#core'
import { partsOf, PartCounter, type Marks, type PartImpact } from '#core/simulate'
import { visibleTo } from '../access/copy-access'
import type { Actor } from '../access/roles'
import { copies } from '../db/schema'
import { inScope, scopeOf } from '../impact/archive'
import { indexedFor, openArchive, type WithEdition } from './archive-thread'
import type { Needs } from './mail'

/** A rule of which it is to be told what each of its parts does. */
export interface ToTakeApart extends WithEdition {
  rule: Rule
  /** ISO 8601 instant against which expiry is decided. */
  now: string
  /** Among the mail that this one may see. */
  actor: Actor
}

/** What each part of a rule does to the newest mail that is here. */
export interface TakenApart {
  whole: Marks
  parts: PartImpact[]
  /** So many copies were looked at. */
  looked: number
}

const NEWEST = 5000
const BATCH_SIZE = 500

/** Counts what each part of a rule does to the newest mail, off the thread that serves people. */
export async function takeApart({ rule, now, actor, ...edition }: ToTakeApart): Promise<TakenApart | Needs> {
  const indexed = indexedFor(edition)
  if (!indexed) return { needs: edition.number }
  const { policy } = indexed.compiled
  const { db, archive } = await openArchive()
  const counter = new PartCounter(indexed, rule, partsOf(rule))
  const over = inScope(scopeOf(policy, new Set([rule.owner]), (rule.direction ?? 'inbound') !== 'inbound'))
  const rows = await db
    .select({ id: copies.id, judgement: copies.judgement })
    .from(copies)
    .where(and(over, visibleTo(actor)))
    .orderBy(desc(copies.receivedAt), desc(copies.id))
    .limit(NEWEST)
  const marked = new Map(rows.map(r => [r.id, r.judgement]))
  for (let at = 0; at < rows.length; at += BATCH_SIZE) {
    const ids = rows.slice(at, at + BATCH_SIZE).map(r => r.id)
    for (const { id, message, recipient } of await archive.messages(ids, policy.trust))
      if (message) counter.add({ message, recipient, judgement: marked.get(id) ?? null }, now)
  }
  return { ...counter.report(), looked: rows.length }
}
