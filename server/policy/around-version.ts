import { eq, or } from 'drizzle-orm'
import type { Policy } from '#core'
import type { Db, Tx } from '../db/client'
import { entries } from '../db/schema'
import { entryOf } from './rows'
import { loadWithoutEntries } from './store'

/** The policy before and after one version. Of the entries its lists hold those alone that the version added or removed. */
export async function aroundVersion(at: Db | Tx, version: number): Promise<{ before: Policy, after: Policy }> {
  const [before, after] = [await loadWithoutEntries(at as Tx, version - 1), await loadWithoutEntries(at as Tx, version)]
  const rows = await at
    .select()
    .from(entries)
    .where(or(eq(entries.fromVersion, version), eq(entries.toVersion, version)))
  for (const row of rows) {
    if (row.toVersion === version) addEntry(before, row)
    if (row.fromVersion === version) addEntry(after, row)
  }
  return { before, after }
}

function addEntry(policy: Policy, row: typeof entries.$inferSelect): void {
  policy.lists.find(l => l.id === row.listId)?.entries.push(entryOf(row))
}
