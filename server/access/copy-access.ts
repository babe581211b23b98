import { eq, or, type SQL } from 'drizzle-orm'
import { copies } from '../db/schema'
import { may, type Asker } from './roles'

export type Copy = typeof copies.$inferSelect

/** Which copies somebody may see: an administrator all, a reviewer what is held and their own, a worker their own. */
export function visibleTo(asker: Asker): SQL | undefined {
  if (may(asker, 'see everybody’s mail')) return undefined
  const own = eq(copies.personId, asker.id)
  return may(asker, 'see held mail') ? or(own, eq(copies.lane, 'quarantine')) : own
}

/** Which copies count in figures that somebody sees: what mail others get, and from whom, is not theirs to count. */
export function countableBy(asker: Asker): SQL | undefined {
  return may(asker, 'see counts of everybody’s mail') ? undefined : eq(copies.personId, asker.id)
}
