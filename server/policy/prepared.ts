import { randomUUID } from 'node:crypto'
import { completed, piecesOf, type PolicyChange } from '#core/change'
import type { Actor } from '../access/roles'
import { inSlices } from '../platform/slices'
import { asStored } from './rows'

/** Changes with an id for everything that has none, in the form in which they come back from the store; others are served meanwhile. */
export function prepared(actor: Actor | null, changes: readonly PolicyChange[]): Promise<PolicyChange[]> {
  return inSlices(preparing(actor, changes))
}

function* preparing(actor: Actor | null, changes: readonly PolicyChange[]): Generator<undefined, PolicyChange[]> {
  const making = { id: randomUUID, now: new Date().toISOString(), by: actor?.name ?? null }
  const out: PolicyChange[] = []
  for (const change of changes) {
    const pieces: PolicyChange[] = []
    for (const piece of piecesOf(change)) {
      pieces.push(...completed([piece], making).map(asStored))
      yield
    }
    const [first] = pieces
    out.push(pieces.length === 1 ? first! : { ...first, entries: pieces.flatMap(p => ('entries' in p ? p.entries : [])) } as PolicyChange)
  }
  return out
}
