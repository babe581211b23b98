import { eq, sql } from 'drizzle-orm'
import type { Copy } from '../access/copy-access'
import { db } from '../db/client'
import { copies } from '../db/schema'
import { allQuarantineSettings } from '../policy/quarantine-settings'
import { HERE_SINCE } from './erase'

const DAY = 24 * 3600_000

/** Days for which Bin and Spam keep a message; null is for good. */
export interface KeptFor {
  bin: number | null
  spam: number | null
}

/** Days after which a copy leaves a place by itself; null is never. */
export async function daysIn(lane: Copy['lane'], quarantine: string | null | undefined, retention: KeptFor): Promise<number | null> {
  if (lane === 'bin' || lane === 'spam') return retention[lane]
  return lane === 'quarantine' ? (await allQuarantineSettings())(quarantine ?? 'general').waitDays : null
}

/** The instant at which a copy that came to a place leaves it after so many days (ISO 8601). */
export function leavesAfter(since: string | Date, days: number): string {
  return new Date(new Date(since).getTime() + days * DAY).toISOString()
}

/** When a copy leaves the place where it is by itself, as an ISO 8601 instant; null where it stays. */
export async function leavesAt(copy: Pick<Copy, 'id' | 'lane' | 'quarantineId'>, retention: KeptFor): Promise<string | null> {
  const days = await daysIn(copy.lane, copy.quarantineId, retention)
  if (days === null) return null
  // Within another: Drizzle leaves the table out of columns that are selected.
  const [row] = await db().select({ since: sql<string>`${HERE_SINCE}` }).from(copies).where(eq(copies.id, copy.id))
  return row ? leavesAfter(row.since, days) : null
}
