import { and, desc, eq, gt, isNull, sql, type SQL } from 'drizzle-orm'
import type { PolicyChange } from '#core/change'
import { seesClausesOf } from '../access/ownership'
import type { Asker } from '../access/roles'
import type { Db, Tx } from '../db/client'
import { entries, people, rules, versions } from '../db/schema'
import { somebodyFaster } from '../platform/problem'
import { TABLES } from './tables'

/** Refuses to go on where what the changes touch was changed after the version on which they were made. */
export async function mustBeFresh(
  tx: Tx,
  asker: Asker | null,
  changes: readonly PolicyChange[],
  { base, what = 'What you changed' }: { base: number, what?: string },
): Promise<void> {
  const theirs = await staleAgainst(tx, asker, changes, base)
  if (theirs) throw somebodyFaster(what, { theirs })
}

/** What came since a version, where something of it touched what the changes touch; null where nothing did. */
export async function staleAgainst(
  at: Db | Tx,
  asker: Asker | null,
  changes: readonly PolicyChange[],
  base: number,
): Promise<Since[] | null> {
  for (const change of changes) if (await isStale(at, change, base)) return changedSince(at, asker, base)
  return null
}

/** Versions that came after the one on which somebody worked, as far as they may read of them; the newest first. */
async function changedSince(tx: Db | Tx, asker: Asker | null, base: number): Promise<Since[]> {
  const rows = await tx
    .select({ version: versions.number, at: versions.at, by: people.name, words: versions.note, owner: versions.owner })
    .from(versions)
    .leftJoin(people, eq(people.id, versions.by))
    .where(gt(versions.number, base))
    .orderBy(desc(versions.number))
    .limit(MOST_SINCE)
  return rows
    .filter(r => !asker || seesClausesOf(asker, r.owner))
    .map(({ version, at, by, words }) => ({ version, at: at.toISOString(), by, words }))
}

const MOST_SINCE = 10

/** A version that came meanwhile. */
export interface Since {
  version: number
  at: string
  by: string | null
  words: string
}

async function isStale(tx: Db | Tx, change: PolicyChange, base: number): Promise<boolean> {
  if ('order' in change) return isThere(tx, rules, and(eq(rules.owner, change.order), isNull(rules.toVersion), gt(rules.fromVersion, base)))
  if ('entries' in change) {
    const values = sql.param(change.entries.map(e => e.value))
    const those = and(eq(entries.listId, change.list), sql`${entries.value} = any(${values})`)
    return isThere(tx, entries, and(those, isNull(entries.toVersion), gt(entries.fromVersion, base)))
  }
  const [table, id] = 'put' in change ? [TABLES[change.put], idOf(change)] : [TABLES[change.remove as keyof typeof TABLES], change.id]
  const changed = and(eq(table.id, id), sql`(${table.fromVersion} > ${base} or ${table.toVersion} > ${base})`)
  return isThere(tx, table, changed)
}

function idOf(change: Extract<PolicyChange, { put: keyof typeof TABLES }>): string {
  return (change as unknown as Record<string, { id: string }>)[change.put]!.id
}

async function isThere(
  tx: Db | Tx,
  table: (typeof TABLES)[keyof typeof TABLES] | typeof entries,
  where: SQL | undefined,
): Promise<boolean> {
  return (await tx.select({ one: sql`1` }).from(table as typeof rules).where(where).limit(1)).length > 0
}
