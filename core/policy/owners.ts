import type { Department, Owner, Person, Policy } from './types'

export const ORGANISATION: Owner = 'organisation'

export function departmentOwner(id: string): Owner {
  return `department:${id}`
}

export function personOwner(id: string): Owner {
  return `person:${id}`
}

/** One step of the order of owners. */
export interface Tier {
  owner: Owner
  must: boolean
}

/**
 * The order of owners for one person: organisation must; departments must, widest first; the person; departments, home
 * first and nearest first; the organisation.
 */
export function tiersFor(policy: Pick<Policy, 'departments'>, person: Person | null): Tier[] {
  const nearestFirst = departmentChain(policy.departments, person?.departments ?? [], false)
  const widestFirst = departmentChain(policy.departments, person?.departments ?? [], true)
  return [
    { owner: ORGANISATION, must: true },
    ...widestFirst.map(id => ({ owner: departmentOwner(id), must: true })),
    ...(person ? [{ owner: personOwner(person.id), must: false }] : []),
    ...nearestFirst.map(id => ({ owner: departmentOwner(id), must: false })),
    { owner: ORGANISATION, must: false },
  ]
}

function departmentChain(departments: readonly Department[], ids: readonly string[], widestFirst: boolean): string[] {
  const out: string[] = []
  for (const id of ids) {
    const chain: string[] = []
    // A circle of parents ends where it meets itself.
    for (let at: string | undefined = id; at !== undefined && !chain.includes(at);) {
      const here: string = at
      chain.push(here)
      at = departments.find(d => d.id === here)?.parent
    }
    for (const step of widestFirst ? chain.reverse() : chain) if (!out.includes(step)) out.push(step)
  }
  return out
}

/** The name of an owner for people. */
export function ownerName(policy: Pick<Policy, 'departments' | 'people'>, owner: Owner): string {
  if (owner === ORGANISATION) return 'organisation'
  const [kind, id] = [owner.slice(0, owner.indexOf(':')), owner.slice(owner.indexOf(':') + 1)]
  const named = kind === 'department' ? policy.departments.find(d => d.id === id) : policy.people.find(p => p.id === id)
  return named?.name ?? id
}
