import { and, eq, isNull } from 'drizzle-orm'
import type { Policy } from '#core'
import type { PolicyChange } from '#core/change'
import { isAnyOf } from '../db/asking'
import type { Tx } from '../db/client'
import { entries } from '../db/schema'
import { eachInSlices } from '../platform/slices'
import { entryOf } from './rows'

const VALUE_BATCH_SIZE = 5000

/** The policy with the entries that the changes are about: those of the same values, or all of a list that is put whole. */
export async function withRelatedEntries(tx: Tx, policy: Policy, changes: readonly PolicyChange[]): Promise<Policy> {
  const wanted = new Map<string, Set<string> | null>()
  for (const change of changes) {
    if (change.type === 'put' && change.kind === 'list' && change.value.entries) wanted.set(change.value.id!, null)
    if (!('entries' in change) || wanted.get(change.list) === null) continue
    const values = wanted.get(change.list) ?? new Set<string>()
    wanted.set(change.list, values)
    await eachInSlices(change.entries, e => values.add(e.value))
  }
  if (!wanted.size) return policy
  const found = new Map<string, Policy['lists'][number]['entries']>()
  for (const [list, values] of wanted) found.set(list, await entriesOf(tx, list, values && [...values]))
  return { ...policy, lists: policy.lists.map(l => (found.has(l.id) ? { ...l, entries: found.get(l.id)! } : l)) }
}

async function entriesOf(tx: Tx, list: string, values: readonly string[] | null): Promise<Policy['lists'][number]['entries']> {
  const own = and(eq(entries.listId, list), isNull(entries.toVersion))
  if (!values) return (await tx.select().from(entries).where(own)).map(entryOf)
  const out = []
  for (let i = 0; i < values.length; i += VALUE_BATCH_SIZE) {
    const some = isAnyOf(entries.value, values.slice(i, i + VALUE_BATCH_SIZE))
    out.push(...(await tx.select().from(entries).where(and(own, some))))
  }
  return out.map(entryOf)
}
