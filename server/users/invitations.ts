import { createHash, randomBytes } from 'node:crypto'
import { and, eq, gt, isNull, sql } from 'drizzle-orm'
import { recordEvent } from '../audit/record'
import type { Actor } from '../access/roles'
import { db } from '../db/client'
import { invitations, people } from '../db/schema'
import { invalid, notFound } from '../platform/problem'
import { publicAddress } from './settings'
import { openMember } from './members'
import { hashPassword } from './passwords'

const DAYS = 7
const BYTES = 24

// Only this is kept: whoever reads the table opens no door by it.
const hashOf = (token: string) => createHash('sha256').update(token).digest('base64url')

/**
 * A link by which somebody chooses their own password, once, within a week: an invitation, or a new password for one that is
 * forgotten. It ends the links before it; the password that stands goes on until another is chosen.
 * @param origin under which the actor reached us, where no public address is set
 */
export async function invite(actor: Actor, personId: string, origin: string): Promise<{ link: string, expires: string }> {
  const person = await openMember(personId)
  if (person.deactivatedAt !== null) throw invalid(`User “${person.name}” is deactivated.`)
  const token = randomBytes(BYTES).toString('base64url')
  const expiresAt = new Date(Date.now() + DAYS * 24 * 3600_000)
  await db().transaction(async (tx) => {
    await tx.delete(invitations).where(eq(invitations.personId, personId))
    await tx.insert(invitations).values({ tokenHash: hashOf(token), personId, madeBy: actor.id, expiresAt })
    await recordEvent(tx, { personId: actor.id, kind: 'invitedUser', detail: { person: personId, name: person.name } })
  })
  return { link: `${(await publicAddress()) || origin}/invitation?token=${token}`, expires: expiresAt.toISOString() }
}

const GONE =
  'link that still opens: it was used, is older than a week, or another one was made since. Ask an administrator for a new one; such a link'

const opens = (token: string) =>
  and(eq(invitations.tokenHash, hashOf(token)), isNull(invitations.usedAt), gt(invitations.expiresAt, new Date()))

/** Whose a link is. @throws 404 where it opens nothing */
export async function openInvitation(token: string): Promise<{ name: string, address: string }> {
  const [row] = await db()
    .select({ personId: invitations.personId })
    .from(invitations)
    .innerJoin(people, eq(people.id, invitations.personId))
    .where(and(opens(token), isNull(people.deactivatedAt)))
  if (!row) throw notFound(GONE)
  const person = await openMember(row.personId)
  return { name: person.name, address: person.addresses.find(a => !person.shared.includes(a)) ?? '' }
}

/** Takes the password that somebody chose; every session of theirs ends. */
export async function acceptInvitation(token: string, password: string): Promise<{ address: string }> {
  const { address } = await openInvitation(token)
  const passwordHash = await hashPassword(password)
  await db().transaction(async (tx) => {
    // Of two who use it at the same time the second finds it used.
    const [used] = await tx
      .update(invitations)
      .set({ usedAt: new Date() })
      .where(opens(token))
      .returning({ personId: invitations.personId })
    if (!used) throw notFound(GONE)
    await tx
      .update(people)
      .set({ passwordHash, sessionEpoch: sql`${people.sessionEpoch} + 1` })
      .where(eq(people.id, used.personId))
    await recordEvent(tx, { personId: used.personId, kind: 'chosePassword', detail: { person: used.personId } })
  })
  return { address }
}
