import { eq, or, type SQL } from 'drizzle-orm'
import { copies } from '../db/schema'
import type { Asker } from './people'

export type Copy = typeof copies.$inferSelect

/** Which copies somebody may see: an administrator all, a reviewer what is held and their own, a worker their own. */
export function visibleTo(asker: Asker): SQL | undefined {
  if (asker.role === 'administrator') return undefined
  const own = eq(copies.personId, asker.id)
  return asker.role === 'reviewer' ? or(own, eq(copies.lane, 'quarantine')) : own
}
