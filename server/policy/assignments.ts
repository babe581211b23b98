import { randomUUID } from 'node:crypto'
import { and, asc, inArray, isNull } from 'drizzle-orm'
import { bindingSchema, isPersonal, ownerName, type Binding, type Owner, type Policy } from '#core'
import { bindingSentence } from '#core/words'
import { db } from '../db/client'
import { bindings as bindingTable } from '../db/schema'
import { checked } from '../platform/checked'
import { currentList } from '../access/list-access'
import { mayChange, mustBeAllowed, seesClausesOf } from '../access/ownership'
import type { Asker } from '../access/roles'
import { changeClauses, type Done } from './apply'
import { bindingOf } from './rows'
import { standing } from './store'
import { invalid, notFound } from '../platform/problem'

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
export function bindingFrom(form: BindingForm, list: string, owner: Owner, id: string = randomUUID()): Binding {
  return checked<Binding>(bindingSchema, { ...form, id, list, owner }, { prefix: 'binding.' })
}

/** Puts a list to one more use. A list of the organisation may serve a department or a person too; a person's own serves only them. */
export async function putToUse(asker: Asker, listId: string, owner: Owner, form: BindingForm): Promise<{ id: string } & Done> {
  const list = await currentList(asker, listId)
  if (isPersonal(list.owner) && owner !== list.owner)
    throw invalid(`“${list.name}” is one person’s own list, which others cannot read. Make a list of the organisation for this.`, {
      owner: 'Only for whom the list is.',
    })
  const use = bindingFrom(form, listId, owner)
  const { act, version } = await changeClauses(asker, [{ put: 'use', use }], { prefix: 'binding.' })
  return { id: use.id, act, version }
}

/** Changes one use of a list; whom it is for stays. */
export async function changeUse(asker: Asker, id: string, base: number, form: BindingForm): Promise<Done> {
  const row = await currentBinding(asker, id)
  mustBeAllowed(asker, row.owner)
  const { name } = await currentList(asker, row.listId)
  const use = bindingFrom(form, row.listId, row.owner, id)
  const { act, version } = await changeClauses(asker, [{ put: 'use', use }], {
    base,
    what: `How “${name}” is used`,
    prefix: 'binding.',
  })
  return { act, version }
}

/** Ends one use of a list; the list and its entries stay. */
export async function endUse(asker: Asker, id: string, base: number): Promise<Done> {
  const row = await currentBinding(asker, id)
  mustBeAllowed(asker, row.owner)
  const { name } = await currentList(asker, row.listId)
  const { act, version } = await changeClauses(asker, [{ remove: 'use', id }], { base, what: `How “${name}” is used` })
  return { act, version }
}

function sentenceOf(binding: Binding, policy: Policy): string {
  return bindingSentence(binding, policy, ownerName(policy, binding.owner))
}

async function currentBinding(asker: Asker, id: string): Promise<typeof bindingTable.$inferSelect> {
  const row = await standing(db(), bindingTable, id)
  if (!row || !seesClausesOf(asker, row.owner)) throw notFound('use of a list with that number')
  return row
}
