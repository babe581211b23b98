import { and, asc, eq, inArray, isNull } from 'drizzle-orm'
import { bindingSchema, isPersonal, ownerName, type Binding, type Owner, type Policy } from '#core'
import { bindingSentence } from '#core/words'
import { db } from '../db/client'
import { bindings as bindingTable } from '../db/schema'
import { checked } from '../platform/checked'
import { mustBeInPower } from '../access/clause-limits'
import { currentList } from '../access/list-access'
import { mayChange, mustBeAllowed, mustBeSomebody, seesClausesOf } from '../access/ownership'
import type { Asker } from '../access/roles'
import { addBinding, bindingOf, changePolicy, endRows, mustStandAt, newId, type Change } from './store'
import { policyInForce, refreshPolicy } from './in-force'
import { invalid, notFound } from '../platform/problem'
import { mustFit } from '../access/quota'
import { mustHoldReferences } from './references'

/** How a list is put to use, as a form sends it. */
export type BindingForm = Omit<Binding, 'id' | 'list' | 'owner'>

export interface BindingLine extends Binding {
  sentence: string
  version: number
  mayChange: boolean
}

/** What these lists are put to use for, as far as the asker may know it. */
export async function bindingsOf(asker: Asker, policy: Policy, listIds: readonly string[]): Promise<BindingLine[]> {
  const rows = await db()
    .select()
    .from(bindingTable)
    .where(and(inArray(bindingTable.listId, [...listIds]), isNull(bindingTable.toVersion)))
    .orderBy(asc(bindingTable.row))
  return rows
    .filter(b => seesClausesOf(asker, b.owner))
    .map(row => ({
      ...bindingOf(row),
      sentence: sentenceOf(bindingOf(row), policy),
      version: row.fromVersion,
      mayChange: mayChange(asker, row.owner),
    }))
}

/** A form's use of a list, checked by itself. */
export function bindingFrom(asker: Asker, form: BindingForm, list: string, owner: Owner, id = newId()): Binding {
  const binding = checked<Binding>(bindingSchema, { ...form, id, list, owner }, { prefix: 'binding.' })
  if (binding.stop) mustBeInPower(asker, owner, [{ stop: binding.stop }])
  return binding
}

/** Puts a list to one more use. A list of the organisation may serve a department or a person too; a person's own serves only them. */
export async function putToUse(asker: Asker, listId: string, owner: Owner, form: BindingForm): Promise<{ id: string }> {
  const list = await currentList(asker, listId)
  const { policy } = await policyInForce()
  mustBeSomebody(policy, owner)
  mustBeAllowed(asker, owner)
  if (isPersonal(list.owner) && owner !== list.owner)
    throw invalid(`“${list.name}” is one person’s own list, which others cannot read. Make a list of the organisation for this.`, {
      owner: 'Only for whom the list is.',
    })
  const binding = bindingFrom(asker, form, listId, owner)
  await changePolicy(asker.id, owner, `List “${list.name}” put to use: ${sentenceOf(binding, policy)}`, async (change) => {
    await bind(change, asker, binding)
    await mustFit(change, asker, owner, 'uses')
  })
  await refreshPolicy()
  return { id: binding.id }
}

/** Changes one use of a list; whom it is for stays. */
export async function changeUse(asker: Asker, id: string, version: number, form: BindingForm): Promise<void> {
  const row = await currentBinding(asker, id)
  mustBeAllowed(asker, row.owner)
  const list = await currentList(asker, row.listId)
  const { policy } = await policyInForce()
  const binding = bindingFrom(asker, form, row.listId, row.owner, id)
  await changePolicy(asker.id, row.owner, `List “${list.name}” used otherwise: ${sentenceOf(binding, policy)}`, async (change) => {
    await mustStandAt(change, bindingTable, id, version, `How “${list.name}” is used`)
    await endRows(change, bindingTable, [id])
    await bind(change, asker, binding)
  })
  await refreshPolicy()
}

/** Writes a use of a list, if the list and all that it refers to are there, and it says something new. */
export async function bind(change: Change, asker: Asker, binding: Binding): Promise<void> {
  await mustHoldReferences(change, asker, { binding })
  await isNew(change, binding)
  await addBinding(change, binding)
}

/** Ends one use of a list; the list and its entries stay. */
export async function endUse(asker: Asker, id: string, version: number): Promise<void> {
  const row = await currentBinding(asker, id)
  mustBeAllowed(asker, row.owner)
  const list = await currentList(asker, row.listId)
  const { policy } = await policyInForce()
  await changePolicy(asker.id, row.owner, `List “${list.name}” no longer used: ${sentenceOf(bindingOf(row), policy)}`, async (change) => {
    await mustStandAt(change, bindingTable, id, version, `How “${list.name}” is used`)
    await endRows(change, bindingTable, [id])
  })
  await refreshPolicy()
}

function sentenceOf(binding: Binding, policy: Policy): string {
  return bindingSentence(binding, policy, ownerName(policy, binding.owner))
}

async function currentBinding(asker: Asker, id: string): Promise<typeof bindingTable.$inferSelect> {
  const [row] = await db()
    .select()
    .from(bindingTable)
    .where(and(eq(bindingTable.id, id), isNull(bindingTable.toVersion)))
  if (!row || !seesClausesOf(asker, row.owner)) throw notFound('use of a list with that number')
  return row
}

// The same use twice says nothing more and is forgotten when one of the two is changed. One on trial beside one that acts is no such pair.
async function isNew(change: Change, binding: Binding): Promise<void> {
  const rows = (
    await change.tx
      .select()
      .from(bindingTable)
      .where(and(eq(bindingTable.listId, binding.list), eq(bindingTable.owner, binding.owner), isNull(bindingTable.toVersion)))
  ).map(bindingOf)
  const key = (b: Binding) => `${b.side} ${b.direction ?? 'inbound'} ${b.state}`
  if (rows.some(r => r.id !== binding.id && key(r) === key(binding)))
    throw invalid('The list is put to that use already, for the same people and direction. Change that use instead.', {
      'binding.side': 'It is used so already.',
    })
}
