import { and, asc, eq, gt, ilike, inArray, isNull, ne, or, sql } from 'drizzle-orm'
import { addTo, makeAddress } from '#core'
import type { Role } from '../access/roles'
import { db, type Db, type Tx } from '../db/client'
import { isAnyOf, isSharedAddress, literally } from '../db/asking'
import { addresses, departments, memberships, people } from '../db/schema'
import { invalid, notFound } from '../platform/problem'

/** Somebody who is here, or was. */
export interface Member {
  id: string
  name: string
  role: Role
  /** As they are written. */
  addresses: string[]
  /** Of those the ones that belong to others too. */
  shared: string[]
  /** Ids, home first. */
  departments: string[]
  /** They have chosen a password, and can sign in. */
  signsIn: boolean
  /** Since when they are here no more, or null. */
  deactivatedAt: string | null
  /** Counted up by every change of them. */
  version: number
}

/** What is said of somebody when they are put down or changed. */
export interface MemberForm {
  name: string
  role: Role
  addresses: string[]
  /** Addresses that may belong to others at the same time: an office's mailbox. */
  shared: string[]
  departments: string[]
}

export interface MemberQuery {
  words?: string
  /** The name and id behind which the page begins. */
  after?: string
  limit: number
}

/** The people of a house by name; with `words` those whose name or address has them. */
export async function listMembers({ words, after, limit }: MemberQuery): Promise<{ items: Member[], next: string | null, total: number }> {
  const like = words ? `%${literally(words)}%` : null
  const wanted = like
    ? or(
        ilike(people.name, like),
        inArray(people.id, db().select({ id: addresses.personId }).from(addresses).where(ilike(addresses.address, like))),
      )
    : undefined
  const place = sql<string>`lower(${people.name}) || ' ' || ${people.id}`
  const rows = await db()
    .select({ id: people.id, place })
    .from(people)
    .where(and(wanted, after === undefined ? undefined : gt(place, after)))
    .orderBy(asc(place))
    .limit(limit + 1)
  const [count] = await db()
    .select({ n: sql<number>`count(*)::int` })
    .from(people)
    .where(wanted)
  const shown = rows.slice(0, limit)
  const found = await membersOf(
    db(),
    shown.map(r => r.id),
  )
  return { items: found, next: rows.length > limit ? shown.at(-1)!.place : null, total: count!.n }
}

/** Everybody, for a file. */
export async function allMembers(at: Db | Tx = db()): Promise<Member[]> {
  const rows = await at.select({ id: people.id }).from(people).where(isNull(people.deactivatedAt)).orderBy(asc(people.name), asc(people.id))
  return membersOf(
    at,
    rows.map(r => r.id),
  )
}

/** People by their ids, those who left too. @throws where one of them never was */
export async function membersOf(at: Db | Tx, ids: readonly string[]): Promise<Member[]> {
  if (!ids.length) return []
  const rows = await at.select().from(people).where(isAnyOf(people.id, ids))
  const own = await at
    .select({
      personId: addresses.personId,
      shown: addresses.shown,
      shared: isSharedAddress,
    })
    .from(addresses)
    .where(isAnyOf(addresses.personId, ids))
    .orderBy(asc(addresses.address))
  const member = await at
    .select()
    .from(memberships)
    .where(isAnyOf(memberships.personId, ids))
    .orderBy(asc(memberships.rank))
  const byId = new Map(rows.map(r => [r.id, r]))
  const addressesOf = new Map<string, typeof own>()
  for (const a of own) addTo(addressesOf, a.personId, a)
  const departmentsOf = new Map<string, typeof member>()
  for (const m of member) addTo(departmentsOf, m.personId, m)
  return ids.map((id) => {
    const { name, role, passwordHash, deactivatedAt, version } = byId.get(id)!
    const mine = addressesOf.get(id) ?? []
    return {
      id,
      name,
      role,
      addresses: mine.map(a => a.shown),
      shared: mine.filter(a => a.shared).map(a => a.shown),
      departments: (departmentsOf.get(id) ?? []).map(m => m.departmentId),
      signsIn: passwordHash !== null && deactivatedAt === null,
      deactivatedAt: deactivatedAt?.toISOString() ?? null,
      version,
    }
  })
}

export async function openMember(id: string): Promise<Member> {
  const [there] = await db().select({ id: people.id }).from(people).where(eq(people.id, id))
  if (!there) throw notFound('This user')
  return (await membersOf(db(), [id]))[0]!
}

/** Writes down one person. @param id null for a new one */
export async function writeMember(tx: Tx, id: string | null, form: MemberForm): Promise<string> {
  const wanted = new Map(form.addresses.map((shown, i) => [addressKey(shown, i), shown]))
  const shared = new Set(form.shared.map(s => makeAddress(s).key))
  const person = id ?? (await freshId(tx, [...wanted.keys()][0]!))
  const held = await tx
    .select({ address: addresses.address, name: people.name })
    .from(addresses)
    .innerJoin(people, eq(people.id, addresses.personId))
    .where(and(inArray(addresses.address, [...wanted.keys()]), ne(addresses.personId, person)))
  const taken = held.find(h => !shared.has(h.address))
  if (taken)
    throw invalid(
      `${wanted.get(taken.address)} already belongs to ${taken.name}. If several users share this mailbox, mark it as shared.`,
      { addresses: `${wanted.get(taken.address)} belongs to ${taken.name}.` },
    )
  const known = new Set((await tx.select({ id: departments.id }).from(departments)).map(d => d.id))
  const strange = form.departments.find(d => !known.has(d))
  if (strange !== undefined) throw invalid(`Department “${strange}” does not exist.`, { departments: 'Choose an existing one.' })
  const row = { id: person, name: form.name, role: form.role }
  const version = sql`${people.version} + 1`
  await tx.insert(people).values(row).onConflictDoUpdate({ target: people.id, set: { ...row, version } })
  await tx.delete(addresses).where(eq(addresses.personId, person))
  await tx.insert(addresses).values([...wanted].map(([address, shown]) => ({ address, shown, personId: person })))
  await tx.delete(memberships).where(eq(memberships.personId, person))
  for (const [rank, departmentId] of [...new Set(form.departments)].entries())
    await tx.insert(memberships).values({ personId: person, departmentId, rank })
  return person
}

function addressKey(shown: string, i: number): string {
  const { local, domain, key } = makeAddress(shown)
  if (!local || !domain) throw invalid(`“${shown}” is not a complete address.`, { [`addresses.${i}`]: 'Write it as name@domain.' })
  return key
}

async function freshId(tx: Tx, address: string): Promise<string> {
  const base = address.replace(/[^\w.-]/g, '-').slice(0, 60)
  let id = base
  for (let n = 2; (await tx.select({ id: people.id }).from(people).where(eq(people.id, id))).length; n++) id = `${base}-${n}`
  return id
}
