import { and, eq, sql } from 'drizzle-orm'
import { makeAddress } from '#core'
import { db, type Tx } from '../db/client'
import { addresses, departments, memberships, people } from '../db/schema'
import { heldAccessOf } from '../access/held-access'
import { permissionsOf, type Actor, type Permission, type Role } from '../access/roles'
import { hashPassword, isPassword } from './passwords'
import { invalid } from '../platform/problem'

export interface NewPerson {
  name: string
  address: string
  role: Role
  password?: string
  departments?: string[]
}

/** Somebody as their own pages know them. */
export interface ShownPerson {
  id: string
  name: string
  role: Role
  /** What their role may do. */
  permissions: readonly Permission[]
  addresses: string[]
}

export function shownPerson({ id, name, role, addresses }: Actor): ShownPerson {
  return { id, name, role, permissions: permissionsOf(role), addresses }
}

type PersonRow = Pick<Actor, 'id' | 'name' | 'role' | 'epoch' | 'departments' | 'held'> & { own: [address: string, shown: string][] }

/** The person of that id, or null. One question to the database: it is asked with every request. */
export async function findPerson(id: string): Promise<Actor | null> {
  const { rows } = await db().execute<PersonRow>(sql`
    select id, name, role, session_epoch as epoch,
      (select coalesce(json_agg(json_build_array(address, shown) order by address), '[]')
        from addresses where person_id = p.id) as own,
      (select coalesce(json_agg(department_id order by rank), '[]') from memberships where person_id = p.id) as departments,
      ${heldAccessOf(id)} as held
    from people p
    where id = ${id} and deactivated_at is null`)
  if (!rows.length) return null
  const { own, ...person } = rows[0]!
  return {
    ...person,
    addresses: own.map(([, shown]) => shown),
    // Also of an address that is theirs alone by now: mail that came while others shared it is still theirs.
    mailboxes: [...new Set(own.map(([address]) => makeAddress(address).keyWithoutTag))],
  }
}

/** The person with that address and password, or null. */
export async function signIn(email: string, password: string): Promise<Actor | null> {
  const rows = await db()
    .select({ id: people.id, hash: people.passwordHash, deactivatedAt: people.deactivatedAt })
    .from(people)
    .innerJoin(addresses, eq(addresses.personId, people.id))
    .where(eq(addresses.address, makeAddress(email).key))
  // A mailbox that several share names nobody; whoever has left does not come back by it.
  const row = rows.length === 1 && rows[0]!.deactivatedAt === null ? rows[0] : undefined
  return (await isPassword(password, row?.hash ?? null)) ? findPerson(row!.id) : null
}

/**
 * Gives somebody another password, and ends their sessions. Returns the epoch in which new ones begin.
 * @throws 422 where the password that they have now is another
 */
export async function changePassword({ id }: Actor, current: string, password: string): Promise<number> {
  const [row] = await db().select({ hash: people.passwordHash }).from(people).where(eq(people.id, id))
  if (!(await isPassword(current, row?.hash ?? null)))
    throw invalid('The current password is not correct.', { current: 'This is not your current password.' })
  const passwordHash = await hashPassword(password)
  const [changed] = await db()
    .update(people)
    .set({ passwordHash, sessionEpoch: sql`${people.sessionEpoch} + 1` })
    .where(eq(people.id, id))
    .returning({ epoch: people.sessionEpoch })
  return changed!.epoch
}

/** Ends every session of a person that began in that epoch; where it is over, nothing. */
export async function endSessions(id: string, epoch: number): Promise<void> {
  await db()
    .update(people)
    .set({ sessionEpoch: sql`${people.sessionEpoch} + 1` })
    .where(and(eq(people.id, id), eq(people.sessionEpoch, epoch)))
}

export async function hasAdministrator(): Promise<boolean> {
  return (await db().select({ id: people.id }).from(people).where(eq(people.role, 'administrator')).limit(1)).length > 0
}

/** Makes a person with one address. */
export async function addPerson(tx: Tx, person: NewPerson): Promise<string> {
  const address = makeAddress(person.address)
  if (!address.local || !address.domain)
    throw invalid(`“${person.address}” is not a complete address.`, { address: 'Write it as name@domain.' })
  const id = address.key.replace(/[^\w.-]/g, '-').slice(0, 60)
  const [taken] = await tx.select().from(addresses).where(eq(addresses.address, address.key))
  if (taken) throw invalid(`${person.address} already belongs to a user.`, { address: 'This address is already in use.' })
  await tx
    .insert(people)
    .values({ id, name: person.name, role: person.role, passwordHash: person.password ? await hashPassword(person.password) : null })
  await tx.insert(addresses).values({ address: address.key, personId: id, shown: person.address })
  for (const [rank, departmentId] of (person.departments ?? []).entries())
    await tx.insert(memberships).values({ personId: id, departmentId, rank })
  return id
}

export async function addDepartment(tx: Tx, department: { id: string, name: string, parent?: string }): Promise<void> {
  await tx.insert(departments).values({ id: department.id, name: department.name, parentId: department.parent ?? null })
}
