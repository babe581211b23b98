import { departmentIn, isPersonal, personOwner, type Owner } from '#core'
import { may, type Asker } from './roles'
import { notAllowed } from '../platform/problem'

/** Whose clauses somebody sees: the organisation's, their departments', their own; an administrator every department's. */
export function seesClausesOf(asker: Asker, owner: Owner): boolean {
  if (owner === 'organisation' || owner === personOwner(asker.id)) return true
  const department = departmentIn(owner)
  return department !== null && (may(asker, 'change everybody’s clauses') || asker.departments.includes(department))
}

/** Whose clauses somebody may change: their own; an administrator also the organisation's and the departments'. */
export function mayChange(asker: Asker, owner: Owner): boolean {
  return owner === personOwner(asker.id) || (!isPersonal(owner) && may(asker, 'change everybody’s clauses'))
}

export function mustBeAllowed(asker: Asker, owner: Owner): void {
  if (!mayChange(asker, owner))
    throw notAllowed('These are not yours to change: your own lists and rules are, and an administrator changes those of the organisation.')
}
