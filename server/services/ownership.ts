import { personOwner, type Owner, type Policy } from '#core'
import type { Asker } from './people'
import { invalid, notAllowed } from './problem'

/** Whose clauses somebody sees: the organisation's, their departments', their own; an administrator every department's. */
export function seesClausesOf(asker: Asker, owner: Owner): boolean {
  if (owner === 'organisation' || owner === personOwner(asker.id)) return true
  return (
    owner.startsWith('department:') && (asker.role === 'administrator' || asker.departments.includes(owner.slice('department:'.length)))
  )
}

/** Whose clauses somebody may change: their own; an administrator also the organisation's and the departments'. */
export function mayChange(asker: Asker, owner: Owner): boolean {
  return owner === personOwner(asker.id) || (asker.role === 'administrator' && !owner.startsWith('person:'))
}

export function mustBeAllowed(asker: Asker, owner: Owner): void {
  if (!mayChange(asker, owner))
    throw notAllowed('These are not yours to change: your own lists and rules are, and an administrator changes those of the organisation.')
}

/** Refuses an owner that is neither the organisation nor a department or person of it. */
export function mustBeSomebody(policy: Policy, owner: Owner): void {
  const known =
    owner === 'organisation' ||
    policy.departments.some(d => owner === `department:${d.id}`) ||
    policy.people.some(p => owner === personOwner(p.id))
  if (!known) throw invalid(`“${owner}” is neither the organisation nor a department or person of it.`, { owner: 'Choose for whom it is.' })
}
