import { and, eq, isNotNull, isNull, ne, sql } from 'drizzle-orm'
import isSame from 'fast-deep-equal'
import { personOwner } from '#core'
import { numberWords, quoted } from '#core/wording'
import { recordEvent } from '../audit/record'
import { lockUsers } from '../access/rights-lock'
import type { Actor } from '../access/roles'
import { db, type Tx } from '../db/client'
import { isAnyOf } from '../db/asking'
import { auditEvents, addresses, copies, lists, people, phraseSets, quarantineReviewers, quarantineSettings, rules } from '../db/schema'
import { invalid, notFound, conflict } from '../platform/problem'
import { refreshPeople } from '../policy/active-policy'
import { membersOf, openMember, writeMember, type Member, type MemberForm } from './members'

/** What a change made of one user: null where there was none before. */
export interface MemberChange {
  id: string
  before: MemberForm | null
  after: MemberForm
}

/** What of a user a change can set. */
export function formOf({ name, role, addresses, shared, departments }: Member): MemberForm {
  return { name, role, addresses, shared, departments }
}

/** Runs a change of users, one at a time, and tells every process. */
export async function withMembers<T>(run: (tx: Tx) => Promise<T>): Promise<T> {
  const done = await db().transaction(async (tx) => {
    await lockUsers(tx)
    return run(tx)
  })
  await refreshPeople()
  return done
}

/** Records changes of users as one event, which can be undone. @param file they come from an imported file */
export function recordMembers(tx: Tx, actor: Actor, members: readonly MemberChange[], file = false): Promise<number> {
  return recordEvent(tx, { personId: actor.id, kind: 'changedUsers', detail: { members, ...(file ? { file } : {}) } })
}

/** What such an event says. */
export function membersWords(detail: Record<string, unknown>): string {
  // An event of an older version of the product has the name alone.
  const { members, file, name, what } = detail as { members: MemberChange[], file?: boolean, name?: string, what?: string }
  if (name !== undefined) return `${what} user ${quoted(name)}`
  const [first] = members
  const added = members.filter(m => m.before === null).length
  if (file || members.length !== 1 || !first)
    return `imported users from a CSV file: ${numberWords(added)} added, ${numberWords(members.length - added)} changed`
  return `${first.before ? 'changed' : 'added'} user ${quoted(first.after.name)}`
}

/** Adds a user, who chooses a password by a link. */
export async function addMember(actor: Actor, form: MemberForm): Promise<Member> {
  const id = await withMembers(async (tx) => {
    const made = await writeMember(tx, null, form)
    const [after] = await membersOf(tx, [made])
    await recordMembers(tx, actor, [{ id: made, before: null, after: formOf(after!) }])
    return made
  })
  return openMember(id)
}

/** Changes a user. @param version the one that the caller saw @throws 409 where it is an older one */
export async function changeMember(actor: Actor, id: string, { version, ...form }: MemberForm & { version: number }): Promise<Member> {
  await withMembers(async (tx) => {
    const before = await standingMember(tx, id, version)
    if (before.role === 'administrator' && form.role !== 'administrator') await mustNotBeLast(tx, id)
    await writeMember(tx, id, form)
    const [after] = await membersOf(tx, [id])
    if (isSame(formOf(after!), formOf(before))) return
    await recordMembers(tx, actor, [{ id, before: formOf(before), after: formOf(after!) }])
  })
  return openMember(id)
}

/** A user who is here, inside the lock. @throws where they left, or were changed after that version */
export async function standingMember(tx: Tx, id: string, version: number): Promise<Member> {
  const there = await mustBeHere(tx, id)
  if (there.version !== version) throw conflict(`User “${there.name}”`)
  return there
}

/** A user who is active, inside the lock. @throws 404 where there is none, 422 where they are deactivated */
export async function mustBeHere(tx: Tx, id: string): Promise<Member> {
  const [row] = await tx.select({ id: people.id }).from(people).where(eq(people.id, id)).for('update')
  if (!row) throw notFound('This user')
  const there = (await membersOf(tx, [id]))[0]!
  if (there.deactivatedAt !== null) throw invalid(`User “${there.name}” is deactivated.`)
  return there
}

/** @throws where nobody else could administer any more */
export async function mustNotBeLast(tx: Tx, id: string): Promise<void> {
  const others = await tx
    .select({ id: people.id })
    .from(people)
    .where(and(eq(people.role, 'administrator'), ne(people.id, id), isNull(people.deactivatedAt), isNotNull(people.passwordHash)))
    .limit(1)
  if (!others.length)
    throw invalid('This is the last administrator who can sign in. Add another administrator first.', {
      role: 'This is the last administrator.',
    })
}

/**
 * Undoes a change of users, as long as all of them are as it left them: who was added is removed again, provided that nothing belongs
 * to them yet.
 * @throws 409 where somebody changed one of them since, 422 where one who was added has signed in, or has mail
 */
export async function undoMembers(
  actor: Actor,
  { id: eventId, detail }: Pick<typeof auditEvents.$inferSelect, 'id' | 'detail'>,
): Promise<number> {
  const { members } = detail as { members: MemberChange[] }
  return withMembers(async (tx) => {
    const ids = members.map(m => m.id)
    const there = await tx.select({ id: people.id }).from(people).where(isAnyOf(people.id, ids)).orderBy(people.id).for('update')
    const now = new Map((await membersOf(tx, there.map(p => p.id))).map(m => [m.id, m]))
    for (const { id, after } of members) {
      const user = now.get(id)
      if (!user || user.deactivatedAt !== null || !isSame(formOf(user), after)) throw conflict(`User “${user?.name ?? after.name}”`)
    }
    const added = members.filter(m => m.before === null).map(m => m.id)
    if (added.includes(actor.id)) throw invalid('Undoing this would deactivate yourself. Ask another administrator.')
    await mustHaveNothing(tx, added)
    await tx.delete(people).where(isAnyOf(people.id, added))
    // All let their addresses go before anybody takes one: two may have exchanged theirs.
    await tx.delete(addresses).where(isAnyOf(addresses.personId, ids))
    for (const { id, before, after } of members) {
      if (!before) continue
      if (after.role === 'administrator' && before.role !== 'administrator') await mustNotBeLast(tx, id)
      await writeMember(tx, id, before)
    }
    return recordEvent(tx, { personId: actor.id, kind: 'undone', detail: {}, undoes: eventId })
  })
}

// Removing them would leave mail, or lists and rules, that are nobody's.
async function mustHaveNothing(tx: Tx, ids: readonly string[]): Promise<void> {
  if (!ids.length) return
  const owners = ids.map(personOwner)
  const has = [
    sql`select person_id as id from ${copies} where ${isAnyOf(copies.personId, ids)}`,
    sql`select person_id from ${auditEvents} where ${isAnyOf(auditEvents.personId, ids)}`,
    sql`select id from ${people} where ${isAnyOf(people.id, ids)} and password_hash is not null`,
    sql`select person_id from ${quarantineReviewers} where ${isAnyOf(quarantineReviewers.personId, ids)}`,
    sql`select deputy_id from ${quarantineSettings} where ${isAnyOf(quarantineSettings.deputyId, ids)}`,
    ...[lists, rules, phraseSets].map(table => sql`select substr(owner, 8) from ${table} where ${isAnyOf(table.owner, owners)}`),
  ]
  const [one] = await tx
    .select({ name: people.name })
    .from(people)
    .where(sql`${people.id} in (${sql.join(has, sql` union all `)})`)
    .limit(1)
  if (one)
    throw invalid(
      `User “${one.name}” has signed in since, or has mail, lists or rules, so adding the user cannot be undone. `
      + 'Deactivate the user in Settings.',
    )
}
