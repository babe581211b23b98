import { and, desc, eq, sql, type SQL } from 'drizzle-orm'
import { reviews, visibleTo, type Copy } from '../access/copy-access'
import type { Actor } from '../access/roles'
import { isAnyOf } from '../db/asking'
import type { Db, Tx } from '../db/client'
import { auditEventItems, auditEvents, copies, people, type CopyState } from '../db/schema'
import { alreadyDone, conflict, invalid, notFound, type Problem } from '../platform/problem'

/** What an event did: its id undoes it. */
export interface MovedCopies {
  eventId: number | null
  changed: number
  copies: { id: number, version: number }[]
  /** Copies that a release could not deliver, since another's stop stands. */
  notReleased?: NotReleased[]
}

export interface NotReleased {
  id: number
  lane: Copy['lane']
  quarantine: string | null
  why: string
}

/** Of each copy the version in which the actor saw it; “any” where they act on it whatever it is by now. */
export type Versions = Record<string, number> | 'any'

/** Takes hold of copies that the actor sees, in one order. @throws where one is not theirs to see, or was changed since they saw it */
export async function lockCopies(tx: Tx, actor: Actor, ids: readonly number[], versions: Versions): Promise<Copy[]> {
  const wanted = [...new Set(ids)]
  const rows = await tx
    .select()
    .from(copies)
    .where(and(isAnyOf(copies.id, wanted), visibleTo(actor)))
    .orderBy(copies.id)
    .for('update')
  if (rows.length !== wanted.length) {
    const missing = wanted.length === 1 ? 'This message' : 'One of these messages'
    throw (await letOutMeanwhile(tx, actor, wanted)) ?? notFound(missing)
  }
  if (versions !== 'any')
    for (const { id, version, subject } of rows) {
      if (versions[id] === undefined)
        throw invalid(`The version in which you read message ${id} is missing.`, { versions: `The version of ${id} is missing.` })
      if (versions[id] !== version) throw conflict(`“${subject || 'This message'}”`)
    }
  return rows
}

/** @throws where one of these copies is not the actor's to see */
export async function mustSeeCopies(at: Db | Tx, actor: Actor, ids: readonly number[]): Promise<void> {
  const wanted = [...new Set(ids)]
  if (!wanted.length) return
  const seen = await at.select({ id: copies.id }).from(copies).where(and(isAnyOf(copies.id, wanted), visibleTo(actor)))
  if (seen.length !== wanted.length) throw notFound('One of these messages')
}

/**
 * Of two who review the same the later sees it no more, and is told who was first. Not what it was about: its number alone, which anybody
 * can count through, is no proof that they ever saw it.
 */
export async function letOutMeanwhile(tx: Tx, actor: Actor, ids: readonly number[]): Promise<Problem | null> {
  const [last] = await tx
    .select({ by: people.name, before: auditEventItems.before })
    .from(auditEventItems)
    .innerJoin(auditEvents, eq(auditEvents.id, auditEventItems.eventId))
    .innerJoin(copies, eq(copies.id, auditEventItems.copyId))
    .leftJoin(people, eq(people.id, auditEvents.personId))
    .where(
      and(
        isAnyOf(auditEventItems.copyId, ids),
        sql`${auditEventItems.before} ->> 'lane' = 'quarantine'`,
        // What is null is not visible: a copy of nobody’s mailbox.
        sql`(${visibleTo(actor) ?? sql`true`}) is not true`,
      ),
    )
    .orderBy(desc(auditEvents.id))
    .limit(1)
  if (!last?.before || !reviews(actor, last.before.quarantineId ?? 'general')) return null
  return alreadyDone(`${last.by ?? 'Someone else'} has already decided about this message.`)
}

/** What of a copy an event changes, and its undo brings back. */
export function stateOf(copy: Copy): CopyState {
  return {
    lane: copy.lane,
    quarantineId: copy.quarantineId,
    folder: copy.folder,
    filed: copy.filed,
    laneSince: copy.laneSince.toISOString(),
    movedBy: copy.movedBy,
    decisionId: copy.decisionId,
    tags: copy.tags,
    important: copy.important,
    subject: copy.subject,
    reason: copy.reason,
  }
}

/** The ids of copies, to be asked in a query. */
export function idsOf(rows: readonly Pick<Copy, 'id'>[]): SQL {
  return sql`select unnest(${sql.param(rows.map(c => c.id))}::bigint[])`
}

export function isOneOf(rows: readonly Pick<Copy, 'id'>[]): SQL {
  return isAnyOf(copies.id, rows.map(c => c.id))
}

/** What was done to copies, in which versions they are now. */
export async function movedTo(tx: Tx, eventId: number, rows: readonly Copy[]): Promise<MovedCopies> {
  const after = await tx
    .select({ id: copies.id, version: copies.version })
    .from(copies)
    .where(isOneOf(rows))
    .orderBy(copies.id)
  return { eventId, changed: rows.length, copies: after }
}
