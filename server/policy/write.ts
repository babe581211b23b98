import { and, eq, inArray, isNull, sql } from 'drizzle-orm'
import { entryKey, type Assignment, type Entry, type List, type PhraseSet, type Policy, type Quarantine, type Rule } from '#core'
import type { PolicyChange } from '#core/change'
import type { Tx } from '../db/client'
import { assignments, entries, lists, phraseSets, quarantines, rules, thresholds } from '../db/schema'
import { eachInSlices } from '../platform/slices'
import { assignmentRow, ruleRow } from './rows'
import { TABLES } from './tables'

/** A version in the making: every row that it begins or ends bears its number. */
export interface Writing {
  tx: Tx
  version: number
  /** Told how many entries are written, of how many. */
  wrote?: (done: number, total: number) => void
}

/**
 * Writes what changes come to. They are the net ones between two policies (`differences`): everything has its id, and nothing
 * is asked any more.
 * @param before the policy before them, with the entries that they concern
 */
export async function writeChanges(writing: Writing, before: Policy, after: Policy, net: readonly PolicyChange[]): Promise<void> {
  for (const change of net) {
    if (change.type === 'order') await writeOrder(writing, after, change.ids)
    else if (change.type === 'remove') await writeRemoval(writing, before, change)
    else await writePut(writing, before, after, change)
  }
}

type Versioned = (typeof TABLES)[keyof typeof TABLES] | typeof entries

/** Ends rows of the active version. */
async function end({ tx, version }: Writing, table: Versioned, ids: readonly string[]): Promise<void> {
  if (ids.length)
    await tx
      .update(table)
      .set({ toVersion: version })
      .where(and(inArray(table.id, [...ids]), isNull(table.toVersion)))
}

async function writeRemoval(writing: Writing, before: Policy, change: Extract<PolicyChange, { type: 'remove' }>): Promise<void> {
  const { tx, version } = writing
  if (change.kind === 'entries') {
    const gone = new Set(change.entries.map(entryKey))
    const own = before.lists.find(l => l.id === change.list)?.entries ?? []
    return end(writing, entries, own.filter(e => gone.has(entryKey(e))).map(e => e.id))
  }
  await end(writing, TABLES[change.kind], [change.id])
  if (change.kind !== 'list') return
  for (const table of [entries, assignments])
    await tx
      .update(table)
      .set({ toVersion: version })
      .where(and(eq(table.listId, change.id), isNull(table.toVersion)))
}

async function writePut(writing: Writing, before: Policy, after: Policy, change: Extract<PolicyChange, { type: 'put' }>): Promise<void> {
  const { tx, version: fromVersion } = writing
  switch (change.kind) {
    case 'entries': {
      const there = before.lists.find(l => l.id === change.list)?.entries ?? []
      if (there.length) {
        const put = new Set<string>()
        await eachInSlices(change.entries, e => put.add(e.id!))
        await end(writing, entries, there.flatMap(e => (put.has(e.id) ? [e.id] : [])))
      }
      return addEntries(writing, change.list, change.entries as Entry[])
    }
    case 'list': {
      const { entries: _, ...list } = change.value as List
      await end(writing, lists, [list.id])
      await tx.insert(lists).values({ ...list, fromVersion })
      return
    }
    case 'assignment':
      await end(writing, assignments, [change.value.id!])
      await tx.insert(assignments).values({ ...assignmentRow(change.value as Assignment), fromVersion })
      return
    case 'rule': {
      const rule = change.value as Rule
      const rank = await rankOf(writing, after, rule)
      await end(writing, rules, [rule.id])
      await tx.insert(rules).values({ ...ruleRow(rule), rank, fromVersion })
      return
    }
    case 'phraseSet': {
      const set = change.value as PhraseSet
      await end(writing, phraseSets, [set.id])
      await tx.insert(phraseSets).values({ ...set, minimum: set.minimum ?? null, fromVersion })
      return
    }
    case 'quarantine': {
      const { id, name, general } = change.value as Quarantine
      await end(writing, quarantines, [id])
      await tx.insert(quarantines).values({ id, name, general: general === true, fromVersion })
      return
    }
    case 'threshold':
      await end(writing, thresholds, [change.value.id])
      await tx.insert(thresholds).values({ ...change.value, fromVersion })
  }
}

/** A rule that is there keeps its rank; a new one stands on top of its owner's or at their end, as the policy has it. */
async function rankOf({ tx }: Writing, after: Policy, rule: Rule): Promise<number> {
  const [row] = await tx
    .select({
      own: sql<number | null>`min(${rules.rank}) filter (where ${rules.id} = ${rule.id})`,
      top: sql<number>`coalesce(min(${rules.rank}), 0)::int`,
      last: sql<number>`coalesce(max(${rules.rank}), 0)::int`,
    })
    .from(rules)
    .where(and(eq(rules.owner, rule.owner), isNull(rules.toVersion)))
  if (row!.own !== null) return row!.own
  return after.rules.find(r => r.owner === rule.owner)?.id === rule.id ? row!.top - 1 : row!.last + 1
}

/** Only rules that come to stand elsewhere are written anew. */
async function writeOrder(writing: Writing, after: Policy, ids: readonly string[]): Promise<void> {
  const { tx, version: fromVersion } = writing
  const rows = await tx
    .select({ id: rules.id, rank: rules.rank, fromVersion: rules.fromVersion })
    .from(rules)
    .where(and(inArray(rules.id, [...ids]), isNull(rules.toVersion)))
  const ranks = new Map(rows.map(r => [r.id, r]))
  const byId = new Map(after.rules.map(r => [r.id, r]))
  for (const [rank, id] of ids.entries()) {
    const row = ranks.get(id)!
    if (row.rank === rank) continue
    if (row.fromVersion === fromVersion) {
      // Written a moment ago, by this very version.
      await tx
        .update(rules)
        .set({ rank })
        .where(and(eq(rules.id, id), isNull(rules.toVersion)))
      continue
    }
    await end(writing, rules, [id])
    await tx.insert(rules).values({ ...ruleRow(byId.get(id)!), rank, fromVersion })
  }
}

const ROW_BATCH_SIZE = 2500

/**
 * Writes entries of a list, those that were there before where they stood; as one value of JSON each time, since there may be a million,
 * and building a statement of them takes long.
 */
async function addEntries({ tx, version, wrote }: Writing, listId: string, added: readonly Entry[]): Promise<void> {
  for (let i = 0; i < added.length; i += ROW_BATCH_SIZE) {
    const rows = added.slice(i, i + ROW_BATCH_SIZE).map(({ id, kind, value, note, expires, addedAt, addedBy }) => ({
      id,
      kind,
      value,
      note: note || null,
      expires: expires ? new Date(expires).toISOString() : null,
      added_at: addedAt ?? new Date().toISOString(),
      added_by: addedBy ?? null,
    }))
    await tx.execute(sql`
      insert into entries (id, list_id, from_version, kind, value, note, expires, added_at, added_by, place)
      select id, ${listId}, ${version}::int, kind, value, note, expires, added_at, added_by, earlier.place
      from jsonb_to_recordset(${JSON.stringify(rows)}::jsonb)
        as e(id text, kind text, value text, note text, expires timestamptz, added_at timestamptz, added_by text)
      left join lateral (
        select coalesce(h.place, h.row) as place from entries h where h.id = e.id and h.to_version is not null order by h.row limit 1
      ) earlier on true`)
    wrote?.(Math.min(i + ROW_BATCH_SIZE, added.length), added.length)
  }
}
