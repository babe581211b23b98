import type { Counts, Department, Owner, Policy } from './types'

export const ORGANISATION: Owner = 'organisation'
const DEPARTMENT = 'department:'
const PERSON = 'person:'

export function departmentOwner(id: string): Owner {
  return `${DEPARTMENT}${id}`
}

export function personOwner(id: string): Owner {
  return `${PERSON}${id}`
}

/** True if it is one person's own. */
export function isPersonal(owner: Owner): boolean {
  return owner.startsWith(PERSON)
}

/** Whose it is, by id; null where it is nobody's own. */
export function personIn(owner: Owner): string | null {
  return owner.startsWith(PERSON) ? owner.slice(PERSON.length) : null
}

/** Which department's it is, by id; null where it is none's. */
export function departmentIn(owner: Owner): string | null {
  return owner.startsWith(DEPARTMENT) ? owner.slice(DEPARTMENT.length) : null
}

/**
 * When a sender condition that protects or exempts counts: for verified senders, unless someone explicitly chose otherwise; for
 * verified senders only where the clause is mandatory.
 */
export function countsOf({ counts, mandatory }: { counts?: Counts, mandatory?: boolean }): Counts {
  return mandatory ? 'verified' : (counts ?? 'verified')
}

/** Whether any sender can be verified at all: here, or by a relay whose results are trusted. */
export function canVerifySenders({ trust }: { trust: Pick<Policy['trust'], 'relays' | 'ownVerification'> }): boolean {
  return trust.relays.length > 0 || trust.ownVerification === true
}

/** One step of the order of owners. */
export interface Tier {
  owner: Owner
  mandatory: boolean
}

/**
 * The order of owners for one person (or nobody in particular) in these departments, home first: organisation must; departments
 * must, widest first; the person; departments, home
 * first and nearest first; the organisation.
 */
export function tiersFor(policy: Pick<Policy, 'departments'>, person: string | null, departments: readonly string[]): Tier[] {
  const nearestFirst = departmentChain(policy.departments, departments, false)
  const widestFirst = departmentChain(policy.departments, departments, true)
  return [
    { owner: ORGANISATION, mandatory: true },
    ...widestFirst.map(id => ({ owner: departmentOwner(id), mandatory: true })),
    ...(person ? [{ owner: personOwner(person), mandatory: false }] : []),
    ...nearestFirst.map(id => ({ owner: departmentOwner(id), mandatory: false })),
    { owner: ORGANISATION, mandatory: false },
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
  const [department, person] = [departmentIn(owner), personIn(owner)]
  const named = department === null ? policy.people.find(p => p.id === person) : policy.departments.find(d => d.id === department)
  return named?.name ?? department ?? person ?? owner
}
