import { and, eq, inArray, ne, notInArray, or, sql, type SQL } from 'drizzle-orm'
import { copies } from '../db/schema'
import { may, type Asker } from './roles'

export type Copy = typeof copies.$inferSelect

/** Which copies are somebody's: their own, and those of mailboxes that they share. */
export function ownCopies(asker: Pick<Asker, 'id' | 'mailboxes'>): SQL | undefined {
  const own = eq(copies.personId, asker.id)
  return asker.mailboxes.length ? or(own, inArray(copies.mailbox, asker.mailboxes)) : own
}

/** Whether a copy is one of these. */
export function isOwn(asker: Asker, copy: Pick<Copy, 'personId' | 'mailbox'>): boolean {
  return copy.personId === asker.id || (copy.mailbox !== null && asker.mailboxes.includes(copy.mailbox))
}

/**
 * Which copies somebody may see: an administrator all; a reviewer what the quarantines hold that they review, and their own; a
 * worker their own, but for what quarantines hold of which readers see nothing.
 */
export function visibleTo(asker: Asker): SQL | undefined {
  if (may(asker, 'see everybody’s mail')) return undefined
  const own = ownVisible(asker)
  if (!may(asker, 'see held mail')) return own
  const { othersReview } = asker.held
  const held = eq(copies.lane, 'quarantine')
  return or(own, othersReview.length ? and(held, notInArray(copies.quarantineId, othersReview)) : held)
}

// Their own, but for what quarantines hold of which recipients see nothing.
function ownVisible(asker: Asker): SQL | undefined {
  const { unseen } = asker.held
  return and(ownCopies(asker), unseen.length ? or(ne(copies.lane, 'quarantine'), notInArray(copies.quarantineId, unseen)) : undefined)
}

/**
 * Copies that their recipients do not see, whoever asks: for what is computed once for everybody. The same as in `visibleTo`.
 * @param copy the name of the table in the query
 */
export function outOfSight(copy: SQL = sql`copies`): SQL {
  return sql`(${copy}.lane = 'quarantine' and ${copy}.quarantine_id in (select quarantine_id from quarantine_settings where not seen))`
}

/**
 * Which copies of an act somebody may put back to where they were before it: those that they see, and may move there today. What a
 * reviewer let out they see no more, and may take back into a quarantine that they review.
 * @param before the state before the act, as JSON; null where it did not move the copy
 * @param released by the asker's own release: who may let their own mail out may also leave it there
 */
export function restorableBy(asker: Asker, before: SQL, released: boolean): SQL | undefined {
  const seen = visibleTo(asker)
  if (may(asker, 'see everybody’s mail') && may(asker, 'hold and release')) return seen
  const { othersReview, ownRelease } = asker.held
  const reviewed = (quarantine: SQL) => {
    if (!may(asker, 'hold and release')) return sql`false`
    return othersReview.length ? sql`${quarantine} <> all(${sql.param(othersReview)}::text[])` : sql`true`
  }
  const ownOutOf = (quarantine: SQL) =>
    ownRelease.length ? sql`(${ownCopies(asker)} and ${quarantine} = any(${sql.param(ownRelease)}::text[]))` : sql`false`
  const lane = sql`${before} ->> 'lane'`
  const held = sql`coalesce(${before} ->> 'quarantineId', 'general')`
  const now = sql`coalesce(${copies.quarantineId}, 'general')`
  const mayHold = sql`(${may(asker, 'hold and release')} or ${released ? ownOutOf(held) : sql`false`})`
  const mayLeave = sql`(${reviewed(now)} or (${lane} in ('inbox', 'slow lane') and ${ownOutOf(now)}))`
  return and(
    or(seen, sql`(${lane} = 'quarantine' and ${reviewed(held)})`),
    sql`(${before} is null or jsonb_typeof(${before}) <> 'object' or (
      (${lane} is distinct from 'quarantine' or ${mayHold})
      and (${copies.lane} <> 'quarantine' or ${lane} = 'quarantine' or ${mayLeave})))`,
  )
}

/** Whether a quarantine is the asker's to review: to put into it, and to let out of it. */
export function reviews(asker: Asker, quarantine: string): boolean {
  return may(asker, 'hold and release') && (may(asker, 'see everybody’s mail') || !asker.held.othersReview.includes(quarantine))
}

/** Whether a held copy is the asker's to let out to its reader. */
export function mayLetOut(asker: Asker, copy: Copy): boolean {
  const quarantine = copy.quarantineId ?? 'general'
  return reviews(asker, quarantine) || (isOwn(asker, copy) && asker.held.ownRelease.includes(quarantine))
}

/** Which copies count in figures that somebody sees: what mail others get, and from whom, is not theirs to count. */
export function countableBy(asker: Asker): SQL | undefined {
  return may(asker, 'see counts of everybody’s mail') ? undefined : ownVisible(asker)
}
