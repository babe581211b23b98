import { eq, inArray, or, type SQL } from 'drizzle-orm'
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

/** Which copies somebody may see: an administrator all, a reviewer what is held and their own, a worker their own. */
export function visibleTo(asker: Asker): SQL | undefined {
  if (may(asker, 'see everybody’s mail')) return undefined
  const own = ownCopies(asker)
  return may(asker, 'see held mail') ? or(own, eq(copies.lane, 'quarantine')) : own
}

/** Which copies count in figures that somebody sees: what mail others get, and from whom, is not theirs to count. */
export function countableBy(asker: Asker): SQL | undefined {
  return may(asker, 'see counts of everybody’s mail') ? undefined : ownCopies(asker)
}
