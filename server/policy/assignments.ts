import { randomUUID } from 'node:crypto'
import { and, asc, inArray, isNull } from 'drizzle-orm'
import { assignmentSchema, isPersonal, ownerName, type Assignment, type Owner, type Policy } from '#core'
import { assignmentSentence } from '#core/words'
import { db } from '../db/client'
import { assignments as assignmentTable } from '../db/schema'
import { checked } from '../platform/checked'
import { currentList } from '../access/list-access'
import { canChange, mustBeAllowed, seesClausesOf } from '../access/ownership'
import type { Actor } from '../access/roles'
import { changeClauses, type Done } from './apply'
import { assignmentOf } from './rows'
import { standing } from './store'
import { invalid, notFound } from '../platform/problem'

/** How a list is put to use, as a form sends it. */
export type AssignmentForm = Omit<Assignment, 'id' | 'list' | 'owner'>

export interface AssignmentView extends Assignment {
  sentence: string
  version: number
  canChange: boolean
}

/** What these lists are put to use for, as far as the actor may know it. */
export async function assignmentsOf(actor: Actor, policy: Policy, listIds: readonly string[]): Promise<AssignmentView[]> {
  const rows = await db()
    .select()
    .from(assignmentTable)
    .where(and(inArray(assignmentTable.listId, [...listIds]), isNull(assignmentTable.toVersion)))
    .orderBy(asc(assignmentTable.row))
  return rows
    .filter(b => seesClausesOf(actor, b.owner))
    .map(row => ({
      ...assignmentOf(row),
      sentence: sentenceOf(assignmentOf(row), policy),
      version: row.fromVersion,
      canChange: canChange(actor, row.owner),
    }))
}

/** A form's use of a list, checked by itself. */
export function assignmentFrom(form: AssignmentForm, list: string, owner: Owner, id: string = randomUUID()): Assignment {
  return checked<Assignment>(assignmentSchema, { ...form, id, list, owner }, { prefix: 'assignment.' })
}

/** Puts a list to one more use. A list of the organisation may serve a department or a person too; a person's own serves only them. */
export async function addAssignment(actor: Actor, listId: string, owner: Owner, form: AssignmentForm): Promise<{ id: string } & Done> {
  const list = await currentList(actor, listId)
  if (isPersonal(list.owner) && owner !== list.owner)
    throw invalid(`List “${list.name}” is a personal list, which others cannot read. Create a list of the organisation for this.`, {
      owner: 'Choose the owner of the list.',
    })
  const assignment = assignmentFrom(form, listId, owner)
  const { eventId, version } = await changeClauses(actor, [{ type: 'put', kind: 'assignment', value: assignment }], {
    prefix: 'assignment.',
  })
  return { id: assignment.id, eventId, version }
}

/** Changes one use of a list; whom it is for stays. */
export async function changeAssignment(actor: Actor, id: string, base: number, form: AssignmentForm): Promise<Done> {
  const row = await currentAssignment(actor, id)
  mustBeAllowed(actor, row.owner)
  const { name } = await currentList(actor, row.listId)
  const assignment = assignmentFrom(form, row.listId, row.owner, id)
  const { eventId, version } = await changeClauses(actor, [{ type: 'put', kind: 'assignment', value: assignment }], {
    base,
    what: `The assignment of list “${name}”`,
    prefix: 'assignment.',
  })
  return { eventId, version }
}

/** Ends one use of a list; the list and its entries stay. */
export async function removeAssignment(actor: Actor, id: string, base: number): Promise<Done> {
  const row = await currentAssignment(actor, id)
  mustBeAllowed(actor, row.owner)
  const { name } = await currentList(actor, row.listId)
  const { eventId, version } = await changeClauses(actor, [{ type: 'remove', kind: 'assignment', id }], {
    base,
    what: `The assignment of list “${name}”`,
  })
  return { eventId, version }
}

function sentenceOf(assignment: Assignment, policy: Policy): string {
  return assignmentSentence(assignment, policy, ownerName(policy, assignment.owner))
}

async function currentAssignment(actor: Actor, id: string): Promise<typeof assignmentTable.$inferSelect> {
  const row = await standing(db(), assignmentTable, id)
  if (!row || !seesClausesOf(actor, row.owner)) throw notFound('This assignment')
  return row
}
