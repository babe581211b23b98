import { and, eq, inArray, ne, notInArray, or, sql, type SQL } from 'drizzle-orm'
import { copies } from '../db/schema'
import { can, type Actor } from './roles'

export type Copy = typeof copies.$inferSelect

/** Which copies are somebody's: their own, and those of mailboxes that they share. */
export function ownCopies(actor: Pick<Actor, 'id' | 'mailboxes'>): SQL | undefined {
  const own = eq(copies.personId, actor.id)
  return actor.mailboxes.length ? or(own, inArray(copies.mailbox, actor.mailboxes)) : own
}

/** Whether a copy is one of these. */
export function isOwn(actor: Actor, copy: Pick<Copy, 'personId' | 'mailbox'>): boolean {
  return copy.personId === actor.id || (copy.mailbox !== null && actor.mailboxes.includes(copy.mailbox))
}

/**
 * Which copies somebody may see: an administrator all; a reviewer what the quarantines hold that they review, and their own; a
 * worker their own, but for what quarantines hold of which recipients see nothing.
 */
export function visibleTo(actor: Actor): SQL | undefined {
  if (can(actor, 'read all mail')) return undefined
  const own = ownVisibleTo(actor)
  if (!can(actor, 'read held mail')) return own
  const { othersReview } = actor.held
  const held = eq(copies.lane, 'quarantine')
  return or(own, othersReview.length ? and(held, notInArray(copies.quarantineId, othersReview)) : held)
}

/** Their own, but for what quarantines hold of which recipients see nothing. */
export function ownVisibleTo(actor: Actor): SQL | undefined {
  const { unseen } = actor.held
  return and(ownCopies(actor), unseen.length ? or(ne(copies.lane, 'quarantine'), notInArray(copies.quarantineId, unseen)) : undefined)
}

/**
 * Copies that their recipients do not see, whoever asks: for what is computed once for everybody. The same as in `visibleTo`.
 * @param copy the name of the table in the query
 */
export function outOfSight(copy: SQL = sql`copies`): SQL {
  return sql`(${copy}.lane = 'quarantine' and ${copy}.quarantine_id in (select quarantine_id from quarantine_settings where not visible))`
}

/**
 * Which copies of an event somebody may put back to where they were before it: those that they see, and may move there today. What a
 * reviewer let out they see no more, and may undo into a quarantine that they review.
 * @param before the state before the event, as JSON; null where it did not move the copy
 * @param released by the actor's own release: who may let their own mail out may also leave it there
 */
export function restorableBy(actor: Actor, before: SQL, released: boolean): SQL | undefined {
  const seen = visibleTo(actor)
  if (can(actor, 'read all mail') && can(actor, 'hold and release')) return seen
  const { othersReview, ownRelease } = actor.held
  const reviewed = (quarantine: SQL) => {
    if (!can(actor, 'hold and release')) return sql`false`
    return othersReview.length ? sql`${quarantine} <> all(${sql.param(othersReview)}::text[])` : sql`true`
  }
  const ownOutOf = (quarantine: SQL) =>
    ownRelease.length ? sql`(${ownCopies(actor)} and ${quarantine} = any(${sql.param(ownRelease)}::text[]))` : sql`false`
  const lane = sql`${before} ->> 'lane'`
  const held = sql`coalesce(${before} ->> 'quarantineId', 'general')`
  const now = sql`coalesce(${copies.quarantineId}, 'general')`
  const canHold = sql`(${can(actor, 'hold and release')} or ${released ? ownOutOf(held) : sql`false`})`
  const canLeave = sql`(${reviewed(now)} or (${lane} in ('inbox', 'lowPriority') and ${ownOutOf(now)}))`
  return and(
    or(seen, sql`(${lane} = 'quarantine' and ${reviewed(held)})`),
    sql`(${before} is null or jsonb_typeof(${before}) <> 'object' or (
      (${lane} is distinct from 'quarantine' or ${canHold})
      and (${copies.lane} <> 'quarantine' or ${lane} = 'quarantine' or ${canLeave})))`,
  )
}

/** Whether a quarantine is the actor's to review: to put into it, and to let out of it. */
export function reviews(actor: Actor, quarantine: string): boolean {
  return can(actor, 'hold and release') && (can(actor, 'read all mail') || !actor.held.othersReview.includes(quarantine))
}

/** Whether a held copy is the actor's to let out to its recipient. */
export function canReleaseCopy(actor: Actor, copy: Pick<Copy, 'quarantineId' | 'personId' | 'mailbox'>): boolean {
  const quarantine = copy.quarantineId ?? 'general'
  return reviews(actor, quarantine) || (isOwn(actor, copy) && actor.held.ownRelease.includes(quarantine))
}

/** Which copies count in figures that somebody sees: what mail others get, and from whom, is not theirs to count. */
export function countableBy(actor: Actor): SQL | undefined {
  return can(actor, 'view counts of all mail') ? undefined : ownVisibleTo(actor)
}
