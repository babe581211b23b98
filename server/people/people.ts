import { and, asc, eq, sql } from 'drizzle-orm'
import { makeAddress } from '#core'
import { db, type Tx } from '../db/client'
import { addresses, departments, memberships, people } from '../db/schema'
import { heldAccessOf } from '../access/held-access'
import { powersOf, type Asker, type Power, type Role } from '../access/roles'
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
  powers: readonly Power[]
  addresses: string[]
}

export function shownPerson({ id, name, role, addresses }: Asker): ShownPerson {
  return { id, name, role, powers: powersOf(role), addresses }
}

/** The person of that id, or null. */
export async function findPerson(id: string): Promise<Asker | null> {
  const [row] = await db().select().from(people).where(eq(people.id, id))
  if (!row || row.leftAt !== null) return null
  const own = await db()
    .select({ address: addresses.address, shown: addresses.shown })
    .from(addresses)
    .where(eq(addresses.personId, id))
    .orderBy(asc(addresses.address))
  const member = await db().select().from(memberships).where(eq(memberships.personId, id)).orderBy(asc(memberships.rank))
  return {
    id: row.id,
    name: row.name,
    role: row.role,
    addresses: own.map(a => a.shown),
    // Also of an address that is theirs alone by now: mail that came while others shared it is still theirs.
    mailboxes: [...new Set(own.map(a => makeAddress(a.address).keyWithoutTag))],
    departments: member.map(m => m.departmentId),
    epoch: row.sessionEpoch,
    held: await heldAccessOf(id),
  }
}

/** The person with that address and password, or null. */
export async function signIn(email: string, password: string): Promise<Asker | null> {
  const rows = await db()
    .select({ id: people.id, hash: people.passwordHash, leftAt: people.leftAt })
    .from(people)
    .innerJoin(addresses, eq(addresses.personId, people.id))
    .where(eq(addresses.address, makeAddress(email).key))
  // A mailbox that several share names nobody; whoever has left does not come back by it.
  const row = rows.length === 1 && rows[0]!.leftAt === null ? rows[0] : undefined
  return (await isPassword(password, row?.hash ?? null)) ? findPerson(row!.id) : null
}

/**
 * Gives somebody another password, and ends their sessions. Returns the epoch in which new ones begin.
 * @throws 422 where the password that they have now is another
 */
export async function changePassword({ id }: Asker, current: string, password: string): Promise<number> {
  const [row] = await db().select({ hash: people.passwordHash }).from(people).where(eq(people.id, id))
  if (!(await isPassword(current, row?.hash ?? null)))
    throw invalid('This is not the password that you have now.', { current: 'Not the password that you have now.' })
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
    throw invalid(`“${person.address}” is not a whole address.`, { address: 'Write it as name@domain.' })
  const id = address.key.replace(/[^\w.-]/g, '-').slice(0, 60)
  const [taken] = await tx.select().from(addresses).where(eq(addresses.address, address.key))
  if (taken) throw invalid(`${person.address} belongs to somebody already.`, { address: 'This address is taken.' })
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
