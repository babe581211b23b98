import { departmentIn, isPersonal, personOwner, type Owner } from '#core'
import { can, type Actor } from './roles'
import { notAllowed } from '../platform/problem'

/** Whose clauses somebody sees: the organisation's, their departments', their own; an administrator every department's. */
export function seesClausesOf(actor: Actor, owner: Owner): boolean {
  if (owner === 'organisation' || owner === personOwner(actor.id)) return true
  const department = departmentIn(owner)
  return department !== null && (can(actor, 'change all lists and rules') || actor.departments.includes(department))
}

/** Whose clauses somebody may change: their own; an administrator also the organisation's and the departments'. */
export function canChange(actor: Actor, owner: Owner): boolean {
  return owner === personOwner(actor.id) || (!isPersonal(owner) && can(actor, 'change all lists and rules'))
}

export function mustBeAllowed(actor: Actor, owner: Owner): void {
  if (!canChange(actor, owner))
    throw notAllowed('You can change only your own lists and rules. Propose this change to an administrator.')
}
