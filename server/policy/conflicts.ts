import isSame from 'fast-deep-equal'
import { and, desc, eq, gt, inArray, isNull, lte, or } from 'drizzle-orm'
import { addTo, type Owner } from '#core'
import type { PolicyChange } from '#core/change'
import { seesClausesOf } from '../access/ownership'
import type { Actor } from '../access/roles'
import { isAnyOf } from '../db/asking'
import type { Db, Tx } from '../db/client'
import { entries, people, rules, versions } from '../db/schema'
import { conflict } from '../platform/problem'
import { noteWords } from './change-note'
import { entryOf } from './rows'
import { TABLES } from './tables'

/** Refuses to go on where what the changes touch was changed after the version on which they were made. */
export async function mustBeFresh(
  tx: Tx,
  actor: Actor | null,
  changes: readonly PolicyChange[],
  { base, what = 'What you edited' }: { base: number, what?: string },
): Promise<void> {
  const theirs = await staleAgainst(tx, actor, changes, base)
  if (theirs) throw conflict(what, { theirs })
}

/** What came since a version, where something of it touched what the changes touch; null where nothing did. */
async function staleAgainst(
  at: Db | Tx,
  actor: Actor | null,
  changes: readonly PolicyChange[],
  base: number,
): Promise<Since[] | null> {
  const touching = await touchedSince(at, changes, base)
  return touching.length ? sinceOf(at, actor, touching) : null
}

/** The versions after a base that touched what the changes touch, as far as the actor may read of them; the newest first. */
export async function changedSince(at: Db | Tx, actor: Actor | null, changes: readonly PolicyChange[], base: number): Promise<Since[]> {
  return sinceOf(at, actor, await touchedSince(at, changes, base))
}

async function sinceOf(at: Db | Tx, actor: Actor | null, numbers: readonly number[]): Promise<Since[]> {
  if (!numbers.length) return []
  const rows = await at
    .select({
      version: versions.number,
      at: versions.at,
      by: people.name,
      note: versions.note,
      words: versions.words,
      owner: versions.owner,
    })
    .from(versions)
    .leftJoin(people, eq(people.id, versions.by))
    .where(inArray(versions.number, [...numbers]))
    .orderBy(desc(versions.number))
    .limit(MAX_SINCE)
  return rows
    .filter(r => !actor || seesClausesOf(actor, r.owner))
    .map(({ version, at, by, note, words }) => ({ version, at: at.toISOString(), by, words: note ? noteWords(note) : words }))
}

const MAX_SINCE = 10

/** A version that came meanwhile. */
export interface Since {
  version: number
  at: string
  by: string | null
  words: string
}

/** Whether something that came after a version touched what the changes touch. */
export async function isStale(at: Db | Tx, changes: readonly PolicyChange[], base: number): Promise<boolean> {
  return (await touchedSince(at, changes, base)).length > 0
}

/**
 * The versions after a base by which what the changes touch is otherwise than it was: one question for each table, however many they
 * are. What was only put in another order, or changed and changed back, is as it was.
 */
async function touchedSince(at: Db | Tx, changes: readonly PolicyChange[], base: number): Promise<number[]> {
  const owners: Owner[] = []
  const values = new Map<string, string[]>()
  const ids = new Map<keyof typeof TABLES, string[]>()
  for (const change of changes) {
    if (change.type === 'order') owners.push(change.owner)
    else if ('entries' in change) for (const e of change.entries) addTo(values, change.list, e.value)
    else if (change.type === 'put') addTo(ids, change.kind, change.value.id!)
    else addTo(ids, change.kind as keyof typeof TABLES, change.id)
  }
  const out = new Set<number>()
  for (const owner of owners) for (const version of await reorderedSince(at, owner, base)) out.add(version)
  for (const [list, all] of values) for (const version of await addedSince(at, list, all, base)) out.add(version)
  for (const [kind, all] of ids) for (const version of await alteredSince(at, kind, all, base)) out.add(version)
  return [...out]
}

/** The versions that put entries of these values, but for those that say again what was there: an undo brings back what it finds. */
async function addedSince(at: Db | Tx, list: string, values: readonly string[], base: number): Promise<number[]> {
  const current = await at
    .select()
    .from(entries)
    .where(and(eq(entries.listId, list), isAnyOf(entries.value, values), isNull(entries.toVersion), gt(entries.fromVersion, base)))
  if (!current.length) return []
  const ended = await at
    .select()
    .from(entries)
    .where(and(isAnyOf(entries.id, current.map(e => e.id)), lte(entries.fromVersion, base), gt(entries.toVersion, base)))
  const was = new Map(ended.map(e => [e.id, e]))
  return current.flatMap((e) => {
    const before = was.get(e.id)
    return before && isSame(entryOf(before), entryOf(e)) ? [] : [e.fromVersion]
  })
}

/** The rows of some things as they stood in a version, or came since; each with what it says, without where it stands. */
async function alteredSince(at: Db | Tx, kind: keyof typeof TABLES, ids: readonly string[], base: number): Promise<number[]> {
  const table = TABLES[kind] as typeof rules
  const rows = await at
    .select()
    .from(table)
    .where(and(isAnyOf(table.id, ids), or(isNull(table.toVersion), gt(table.toVersion, base))))
  const out: number[] = []
  const byId = new Map<string, typeof rows>()
  for (const row of rows) addTo(byId, row.id, row)
  for (const own of byId.values()) {
    const was = own.find(r => r.fromVersion <= base)
    const is = own.find(r => r.toVersion === null)
    if (was && is && (was === is || isSame(saidBy(was), saidBy(is)))) continue
    // Made and taken away again meanwhile.
    if (!was && !is) continue
    for (const { fromVersion, toVersion } of own)
      for (const version of [fromVersion, toVersion]) if (version !== null && version > base) out.push(version)
  }
  return out
}

function saidBy({ row: _, rank: __, fromVersion: ___, toVersion: ____, ...said }: typeof rules.$inferSelect) {
  return said
}

/** The versions since which the rules of an owner stand in another order, or are others. */
async function reorderedSince(at: Db | Tx, owner: Owner, base: number): Promise<number[]> {
  const rows = await at
    .select({ id: rules.id, rank: rules.rank, fromVersion: rules.fromVersion, toVersion: rules.toVersion })
    .from(rules)
    .where(and(eq(rules.owner, owner), or(isNull(rules.toVersion), gt(rules.toVersion, base))))
    .orderBy(rules.rank)
  const orderOf = (some: typeof rows) => some.map(r => r.id).join('\n')
  if (orderOf(rows.filter(r => r.fromVersion <= base)) === orderOf(rows.filter(r => r.toVersion === null))) return []
  return rows.flatMap(r => [r.fromVersion, r.toVersion].filter(v => v !== null && v > base)) as number[]
}
