import { and, eq, inArray, ne, notInArray, or, type SQL } from 'drizzle-orm'
import { copies } from '../db/schema'
import { may, type Asker } from './roles'

export type Copy = typeof copies.$inferSelect

/** Which copies are somebody's: their own, and those of mailboxes that they share. */
export function ownCopies(asker: Pick<Asker, 'id' | 'mailboxes'>): SQL | undefined {
  const own = eq(copies.personId, asker.id)
  return asker.mailboxes.length ? or(own, inArray(copies.mailbox, asker.mailboxes)) : own
}

/** Whether a copy is one of these. */
export function isOwn(asker: Asker, copy: Copy): boolean {
  return copy.personId === asker.id || (copy.mailbox !== null && asker.mailboxes.includes(copy.mailbox))
}

/**
 * Which copies somebody may see: an administrator all; a reviewer what the quarantines hold that they review, and their own; a
 * worker their own, but for what quarantines hold of which readers see nothing.
 */
export function visibleTo(asker: Asker): SQL | undefined {
  if (may(asker, 'see everybody’s mail')) return undefined
  const { unseen, othersReview } = asker.held
  const notUnseen = unseen.length ? or(ne(copies.lane, 'quarantine'), notInArray(copies.quarantineId, unseen)) : undefined
  const own = and(ownCopies(asker), notUnseen)
  if (!may(asker, 'see held mail')) return own
  const held = eq(copies.lane, 'quarantine')
  return or(own, othersReview.length ? and(held, notInArray(copies.quarantineId, othersReview)) : held)
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
  return may(asker, 'see counts of everybody’s mail') ? undefined : ownCopies(asker)
}
