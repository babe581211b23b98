import { and, eq, sql } from 'drizzle-orm'
import { counted, numberWords } from '#core/wording'
import { LANE_NAMES } from '#core/words'
import type { Tx } from '../db/client'
import { copies } from '../db/schema'
import { Problem, PROBLEM_TYPES } from '../platform/problem'
import { hereBefore, NOT_ASKED_FOR } from './erase'

/** Days for which messages are kept in a lane; null is for good. */
type Kept = Record<(typeof LANES)[number], number | null>

const LANES = ['bin', 'spam'] as const
const DAY = 24 * 3600_000

/**
 * A shorter retention deletes messages that the longer one kept, within a day and for good: how many is said back first.
 * @param said so many were seen
 * @throws 422 with the number where it was not said
 */
export async function mustHaveSeenDeleted(tx: Tx, before: Kept, after: Kept, said: number | undefined): Promise<void> {
  const each: { lane: (typeof LANES)[number], days: number, n: number }[] = []
  for (const lane of LANES) {
    const [was, days] = [before[lane], after[lane]]
    if (days === null || (was !== null && was <= days)) continue
    const n = (await olderThan(tx, lane, days)) - (was === null ? 0 : await olderThan(tx, lane, was))
    if (n > 0) each.push({ lane, days, n })
  }
  const erases = each.reduce((sum, e) => sum + e.n, 0)
  if (!erases || (said !== undefined && said >= erases)) return
  const words = each.map(({ lane, days, n }) => `${numberWords(n)} in ${LANE_NAMES[lane]} older than ${counted(days, 'day')}`)
  throw new Problem(
    422,
    'Mail would be deleted permanently',
    `This deletes ${counted(erases, 'message')} permanently within a day: ${words.join(' and ')}. This cannot be undone. `
    + `To confirm, type the number ${erases}.`,
    { type: PROBLEM_TYPES.erases, more: { erases } },
  )
}

async function olderThan(tx: Tx, lane: (typeof LANES)[number], days: number): Promise<number> {
  const [row] = await tx
    .select({ n: sql<number>`count(*)::int` })
    .from(copies)
    .where(and(eq(copies.lane, lane), hereBefore(new Date(Date.now() - days * DAY)), NOT_ASKED_FOR))
  return row!.n
}
