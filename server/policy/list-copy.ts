import { randomUUID } from 'node:crypto'
import { and, asc, eq, isNull } from 'drizzle-orm'
import type { Owner } from '#core'
import { copyListTo, type PolicyChange } from '#core/change'
import { numberWords } from '#core/wording'
import { currentList } from '../access/list-access'
import { mustBeAllowed } from '../access/ownership'
import type { Actor } from '../access/roles'
import { db } from '../db/client'
import { entries } from '../db/schema'
import { invalid } from '../platform/problem'
import { activePolicy } from './active-policy'
import { ENTRY_PLACE } from './entry-place'
import { entryOf } from './rows'

/** Of longer lists a copy would be out of date before anybody compares the two: they are assigned to both owners instead. */
const MAX_COPIED = 10_000

/** The changes that copy a list to another owner; they are previewed and saved as any others. @throws 422 where the list is too long */
export async function listCopy(actor: Actor, id: string, owner: Owner): Promise<{ changes: PolicyChange[] }> {
  const row = await currentList(actor, id)
  mustBeAllowed(actor, owner)
  if (owner === row.owner) throw invalid('The list belongs to this owner already. Choose another one.', { owner: 'Choose another owner.' })
  const { policy } = await activePolicy()
  const own = await db()
    .select()
    .from(entries)
    .where(and(eq(entries.listId, id), isNull(entries.toVersion)))
    .orderBy(asc(ENTRY_PLACE))
    .limit(MAX_COPIED + 1)
  if (own.length > MAX_COPIED)
    throw invalid(
      `A list of more than ${numberWords(MAX_COPIED)} entries is not copied. Add an assignment for the other owner: then both use one list.`,
    )
  const { name, usualSide, enabled } = row
  const list = { id, name, owner: row.owner, usualSide, enabled }
  const names = policy.lists.filter(l => l.owner === owner).map(l => l.name)
  return { changes: copyListTo({ list, entries: own.map(entryOf), assignments: policy.assignments }, owner, { names, id: randomUUID }) }
}
