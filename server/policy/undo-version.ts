import { inverse, type PolicyChange } from '#core/change'
import type { Actor } from '../access/roles'
import type { Tx } from '../db/client'
import { changeClauses, type Changed } from './apply'
import { aroundVersion } from './around-version'

/** Of which act a version is undone, and what else belongs to that, in the same transaction. */
export interface Undoing {
  undoes: number
  first(tx: Tx): Promise<void>
  /** @param act the one that undoes it */
  inTransaction(tx: Tx, eventId: number): Promise<void>
}

/**
 * Undoes what one version changed. Refused where what it touched was changed again since.
 */
export function undoVersion(
  actor: Actor,
  version: number,
  { undoes, first, inTransaction }: Undoing,
): Promise<Changed> {
  const back = async ({ tx }: { tx: Tx }) => {
    await first(tx)
    return changesBack(tx, version)
  }
  return changeClauses(actor, back, {
    inTransaction: (tx, { eventId }) => inTransaction(tx, eventId),
    base: version,
    what: 'What this action changed',
    undoes,
  })
}

/** The changes that take back what one version changed. */
export async function changesBack(tx: Tx, version: number): Promise<PolicyChange[]> {
  const { before, after } = await aroundVersion(tx, version)
  return inverse(before, after)
}
