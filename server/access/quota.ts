import { and, count, eq, isNull, sql } from 'drizzle-orm'
import { isPersonal, type Owner } from '#core'
import { numberWords } from '#core/wording'
import type { Tx } from '../db/client'
import { assignments, entries, lists, phraseSets, rules } from '../db/schema'
import { can, type Actor } from './roles'
import { invalid } from '../platform/problem'

/** How much one owner may keep. */
interface Quota {
  entries: number
  lists: number
  assignments: number
  rules: number
  sets: number
  /** Letters that all rules, or all phrase sets, are written with. */
  text: number
}

export type QuotaKind = Exclude<keyof Quota, 'text'>

/** What everybody waits for is loaded from what each keeps: one person's lists and rules are no burden to the others. */
const PERSON: Quota = { entries: 5000, lists: 200, assignments: 400, rules: 200, sets: 100, text: 1_000_000 }
const ADMINISTRATOR: Quota = { entries: 1_000_000, lists: 5000, assignments: 10_000, rules: 10_000, sets: 2000, text: 50_000_000 }

const WORDS: Record<QuotaKind, string> = {
  entries: 'entries',
  lists: 'lists',
  assignments: 'assignments',
  rules: 'rules',
  sets: 'phrase sets',
}

/**
 * Refuses what would be more than an owner may keep. Asked at the end of a change, when all of it is written: several at the
 * same time would otherwise each find room.
 */
export async function mustFit(change: { tx: Tx }, actor: Actor, owner: Owner, kept: QuotaKind): Promise<void> {
  const quota = can(actor, 'use large limits') ? ADMINISTRATOR : PERSON
  const { n, text } = await counted(change, owner, kept)
  const whose = isPersonal(owner) ? 'You can have' : 'An owner can have'
  if (n > quota[kept])
    throw invalid(
      `${whose} at most ${numberWords(quota[kept])} ${WORDS[kept]}; with this change there would be ${numberWords(n)}. Remove some first.`,
    )
  if (text > quota.text)
    throw invalid(
      `Your ${WORDS[kept]} would have more than ${numberWords(quota.text)} characters in total. Shorten them, or remove some first.`,
    )
}

async function counted({ tx }: { tx: Tx }, owner: Owner, kept: QuotaKind): Promise<{ n: number, text: number }> {
  const text = sql<number>`0`
  const current = (table: typeof lists | typeof assignments | typeof rules | typeof phraseSets) =>
    and(eq(table.owner, owner), isNull(table.toVersion))
  const [row] = await {
    entries: () =>
      tx
        .select({ n: count(), text })
        .from(entries)
        .innerJoin(lists, eq(lists.id, entries.listId))
        .where(and(current(lists), isNull(entries.toVersion))),
    lists: () => tx.select({ n: count(), text }).from(lists).where(current(lists)),
    assignments: () => tx.select({ n: count(), text }).from(assignments).where(current(assignments)),
    rules: () =>
      tx
        .select({
          n: count(),
          text: sql<number>`coalesce(
            sum(length(${rules.when}::text) + length(${rules.except}::text) + length(${rules.claims}::text)), 0)::int`,
        })
        .from(rules)
        .where(current(rules)),
    sets: () =>
      tx
        .select({ n: count(), text: sql<number>`coalesce(sum(length(${phraseSets.phrases}::text)), 0)::int` })
        .from(phraseSets)
        .where(current(phraseSets)),
  }[kept]()
  return row!
}
