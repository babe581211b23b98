import { eq, or } from 'drizzle-orm'
import type { Policy } from '#core'
import { inverse, type PolicyChange } from '#core/change'
import type { Actor } from '../access/roles'
import type { Tx } from '../db/client'
import { entries } from '../db/schema'
import { changeClauses, type Changed } from './apply'
import { entryOf } from './rows'
import { loadWithoutEntries } from './store'

/** Of which act a version is taken back, and what else belongs to that, in the same transaction. */
export interface Undoing {
  undoes: number
  words: string
  first(tx: Tx): Promise<void>
  /** @param act the one that takes it back */
  inTransaction(tx: Tx, eventId: number): Promise<void>
}

/**
 * Takes back what one version changed. Refused where what it touched was changed again since.
 */
export function undoVersion(
  actor: Actor,
  version: number,
  { undoes, words, first, inTransaction }: Undoing,
): Promise<Changed> {
  const back = async ({ tx }: { tx: Tx }) => {
    await first(tx)
    return changesBack(tx, version)
  }
  return changeClauses(actor, back, {
    inTransaction: (tx, { eventId }) => inTransaction(tx, eventId),
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
