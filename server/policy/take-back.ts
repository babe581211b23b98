import { eq, or } from 'drizzle-orm'
import type { Policy } from '#core'
import { inverse, type PolicyChange } from '#core/change'
import type { Asker } from '../access/roles'
import type { Tx } from '../db/client'
import { entries } from '../db/schema'
import { changeClauses, type Changed } from './apply'
import { entryOf } from './rows'
import { loadWithoutEntries } from './store'

/**
 * Takes back what one version changed. Refused where what it touched was changed again since.
 * @param undoes the act that made that version
 */
export function takeBackVersion(asker: Asker, version: number, undoes: number, words: string): Promise<Changed> {
  return changeClauses(asker, ({ tx }) => changesBack(tx, version), {
    base: version,
    what: 'What this act changed',
    note: `Taken back: ${words}`.slice(0, 2000),
    undoes,
  })
}

async function changesBack(tx: Tx, version: number): Promise<PolicyChange[]> {
  const [before, after] = [await loadWithoutEntries(tx, version - 1), await loadWithoutEntries(tx, version)]
  const rows = await tx
    .select()
    .from(entries)
    .where(or(eq(entries.fromVersion, version), eq(entries.toVersion, version)))
  for (const row of rows) {
    if (row.toVersion === version) hold(before, row)
    if (row.fromVersion === version) hold(after, row)
  }
  return inverse(before, after)
}

function hold(policy: Policy, row: typeof entries.$inferSelect): void {
  policy.lists.find(l => l.id === row.listId)?.entries.push(entryOf(row))
}
