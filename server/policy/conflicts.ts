import { and, desc, eq, gt, inArray, isNull, sql, type SQL } from 'drizzle-orm'
import { addTo, type Owner } from '#core'
import type { PolicyChange } from '#core/change'
import { seesClausesOf } from '../access/ownership'
import type { Actor } from '../access/roles'
import { isAnyOf } from '../db/asking'
import type { Db, Tx } from '../db/client'
import { entries, people, rules, versions } from '../db/schema'
import { conflict } from '../platform/problem'
import { noteWords } from './change-note'
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
  return (await isStale(at, changes, base)) ? changedSince(at, actor, base) : null
}

/** Versions that came after the one on which somebody worked, as far as they may read of them; the newest first. */
export async function changedSince(tx: Db | Tx, actor: Actor | null, base: number): Promise<Since[]> {
  const rows = await tx
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
    .where(gt(versions.number, base))
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

/** Whether something that came after a version touched what the changes touch: one question for each table, however many they are. */
export async function isStale(at: Db | Tx, changes: readonly PolicyChange[], base: number): Promise<boolean> {
  const owners: Owner[] = []
  const values = new Map<string, string[]>()
  const ids = new Map<keyof typeof TABLES, string[]>()
  for (const change of changes) {
    if (change.type === 'order') owners.push(change.owner)
    else if ('entries' in change) for (const e of change.entries) addTo(values, change.list, e.value)
    else if (change.type === 'put') addTo(ids, change.kind, change.value.id!)
    else addTo(ids, change.kind as keyof typeof TABLES, change.id)
  }
  if (owners.length && (await isThere(at, rules, and(inArray(rules.owner, owners), isNull(rules.toVersion), gt(rules.fromVersion, base)))))
    return true
  for (const [list, all] of values) {
    const those = and(eq(entries.listId, list), isAnyOf(entries.value, all))
    if (await isThere(at, entries, and(those, isNull(entries.toVersion), gt(entries.fromVersion, base)))) return true
  }
  for (const [what, all] of ids) {
    const table = TABLES[what]
    const changed = sql`(${table.fromVersion} > ${base} or ${table.toVersion} > ${base})`
    if (await isThere(at, table, and(isAnyOf(table.id, all), changed))) return true
  }
  return false
}

async function isThere(
  tx: Db | Tx,
  table: (typeof TABLES)[keyof typeof TABLES] | typeof entries,
  where: SQL | undefined,
): Promise<boolean> {
  return (await tx.select({ one: sql`1` }).from(table as typeof rules).where(where).limit(1)).length > 0
}
