import { and, eq, inArray, isNull, or, sql, type SQL } from 'drizzle-orm'
import { visibleTo } from '../access/copy-access'
import type { Actor } from '../access/roles'
import { withWords } from '../copies/copy-conditions'
import { REVIEWED_LANES, type ReviewedLane } from '../db/lanes'
import { copies } from '../db/schema'

/** One place of a review. */
export interface ReviewPlace {
  lane: ReviewedLane
  /** Which quarantine. */
  quarantine?: string | null
  /** Only what has these words. */
  words?: string
}

/** All that lies at a place, marked or not. The index of the grouping is asked by both columns. */
export function lyingAt(actor: Actor, { lane, quarantine }: ReviewPlace): SQL | undefined {
  return and(
    visibleTo(actor),
    eq(copies.lane, lane),
    lane === 'quarantine' ? eq(copies.quarantineId, quarantine ?? 'general') : isNull(copies.quarantineId),
  )
}

/** What of a place has the words that are sought there. */
export async function sought(actor: Actor, { words }: ReviewPlace): Promise<SQL | undefined> {
  return words ? withWords(actor, words) : undefined
}

/** What waits for somebody at a place: all that a quarantine holds; elsewhere what nobody has marked. */
export function waitingAt(actor: Actor, place: ReviewPlace): SQL | undefined {
  return and(lyingAt(actor, place), place.lane === 'quarantine' ? undefined : isNull(copies.judgement))
}

/** What waits at any place. */
export const WAITS: SQL = or(
  eq(copies.lane, 'quarantine'),
  and(inArray(copies.lane, REVIEWED_LANES.filter(l => l !== 'quarantine')), isNull(copies.judgement)),
)!

/** By what copies are grouped: what put them there, who sent them, what their subject says. */
export const GROUPINGS = ['clause', 'sender', 'subject'] as const
export type Grouping = (typeof GROUPINGS)[number]

export const GROUPED_BY = {
  clause: copies.reviewClause,
  sender: copies.reviewSender,
  subject: copies.reviewSubject,
} satisfies Record<Grouping, unknown>

/** The likeliest mistakes first, as the indexes have it. */
export const IN_ORDER = sql`likely desc nulls last, id desc nulls last`
