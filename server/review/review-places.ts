import { LANE_NAMES } from '#core/words'
import { and, eq, inArray, notInArray, sql } from 'drizzle-orm'
import { LIKELY_FROM } from '#core/review'
import { reviews, visibleTo } from '../access/copy-access'
import type { Actor } from '../access/roles'
import { db } from '../db/client'
import { copies, quarantineSettings, type AfterWait } from '../db/schema'
import { countRequests } from '../requests/requests'
import { hereBefore } from '../retention/erase'
import { activePolicy } from '../policy/active-policy'
import { REVIEWED_LANES, type ReviewedLane } from '../db/lanes'
import { lyingAt, WAITS } from './review-place'

/** A place where mail is reviewed, and what waits there. */
export interface ReviewPlaceView {
  lane: ReviewedLane
  quarantine: string | null
  /** The quarantine's name, or the lane. */
  name: string
  copies: number
  /** Since when the one lies there that has waited longest; null where none does. */
  oldest: string | null
  likely: number
  /** Of all that lies there, marked or not: what is gone within a week. */
  soon: number
  /** All messages there; 0 if none is deleted or released by its age. */
  all: number
  /** After so many days what lies there is erased, or goes where its quarantine says; null is never. */
  days: number | null
  then: AfterWait | 'erase'
  /** Only one's own is reviewed here: what is held is others' to let out. */
  own: boolean
}

/** What leaves within so many days leaves soon. */
export const SOON_DAYS = 7
const DAY = 24 * 3600_000

/** Everywhere that the actor reviews, with what waits there. @param retention for how many days things are kept */
export async function reviewPlacesFor(actor: Actor, retention: { bin: number | null, spam: number | null }): Promise<ReviewPlaceView[]> {
  const { policy } = await activePolicy()
  const counted = await db()
    .select({
      lane: copies.lane,
      quarantine: copies.quarantineId,
      copies: sql<number>`count(*)::int`,
      oldest: sql<string | null>`min(${copies.laneSince})`,
      likely: sql<number>`(count(*) filter (where ${copies.likely} >= ${LIKELY_FROM}))::int`,
    })
    .from(copies)
    .where(and(visibleTo(actor), inArray(copies.lane, [...REVIEWED_LANES]), WAITS))
    .groupBy(copies.lane, copies.quarantineId)
  const waits = new Map((await db().select().from(quarantineSettings)).map(q => [q.quarantineId, q]))
  const line = async (lane: ReviewedLane, quarantine: string | null, name: string): Promise<ReviewPlaceView> => {
    const found = counted.filter(c => c.lane === lane && (quarantine === null || c.quarantine === quarantine))
    const wait = quarantine === null ? undefined : waits.get(quarantine)
    const days = quarantine === null ? (lane === 'bin' ? retention.bin : lane === 'spam' ? retention.spam : null) : (wait?.waitDays ?? null)
    const oldest = found.map(c => c.oldest).filter(o => o !== null).sort()[0]
    return {
      lane,
      quarantine,
      name,
      copies: found.reduce((n, c) => n + c.copies, 0),
      oldest: oldest ? new Date(oldest).toISOString() : null,
      likely: found.reduce((n, c) => n + c.likely, 0),
      ...(days === null ? { soon: 0, all: 0 } : await leavingSoon(actor, { lane, quarantine, days })),
      days,
      then: quarantine === null ? 'erase' : (wait?.afterWait ?? 'bin'),
      own: quarantine !== null && !reviews(actor, quarantine),
    }
  }
  const holding = policy.quarantines.filter(q => reviews(actor, q.id) || counted.some(c => c.quarantine === q.id))
  // Mail that came, or was put back, into one while that was deleted is lost to nobody.
  const gone = counted.filter(c => c.lane === 'quarantine' && !policy.quarantines.some(q => q.id === c.quarantine))
  return Promise.all([
    ...holding.map(q => line('quarantine', q.id, q.name)),
    ...gone.map(c => line('quarantine', c.quarantine, 'a deleted quarantine')),
    line('spam', null, LANE_NAMES.spam),
    line('lowPriority', null, LANE_NAMES.lowPriority),
    line('bin', null, LANE_NAMES.bin),
  ])
}

/** Copies at a place that are gone, or go elsewhere, within a week. */
export function leavesSoon(days: number) {
  return hereBefore(new Date(Date.now() - (days - SOON_DAYS) * DAY))
}

async function leavingSoon(
  actor: Actor,
  { lane, quarantine, days }: Pick<ReviewPlaceView, 'lane' | 'quarantine'> & { days: number },
): Promise<{ soon: number, all: number }> {
  const [n] = await db()
    .select({
      soon: sql<number>`(count(*) filter (where ${leavesSoon(days)}))::int`,
      all: sql<number>`count(*)::int`,
    })
    .from(copies)
    .where(lyingAt(actor, { lane, quarantine }))
  return n!
}

/** What waits for a user, as the menu counts it. */
export interface ReviewCount {
  /** Held mail: theirs to review, and their own, unless its quarantine does not tell recipients. */
  waiting: number
  /** Requests that wait for their answer, and answers that they have not read. */
  asked: number
  news: number
}

const MAX_COUNTED = 1000

/** How much waits for the actor. Counted up to a thousand. */
export async function countReview(actor: Actor): Promise<ReviewCount> {
  const silent = await db()
    .select({ id: quarantineSettings.quarantineId })
    .from(quarantineSettings)
    .where(eq(quarantineSettings.notified, false))
  const { waiting: asked, news } = await countRequests(actor)
  // Who reviews a quarantine is told of what it holds in any case.
  const untold = silent.map(q => q.id).filter(id => !reviews(actor, id))
  const some = db()
    .select({ one: sql`1` })
    .from(copies)
    .where(
      and(
        visibleTo(actor),
        eq(copies.lane, 'quarantine'),
        untold.length ? notInArray(copies.quarantineId, untold) : undefined,
      ),
    )
    .limit(MAX_COUNTED)
    .as('some')
  const [n] = await db().select({ n: sql<number>`count(*)::int` }).from(some)
  return { waiting: n!.n, asked, news }
}
