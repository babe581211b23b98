import { and, eq, isNull, sql } from 'drizzle-orm'
import { isDelivered, type DoorRuling } from '#core'
import type { Tx } from '../db/client'
import { actItems, acts } from '../db/schema'
import { stateByRuling } from './decision-rows'
import type { Copy } from '../access/copy-access'
import type { InForce } from '../policy/active-policy'
import { readAndDecide } from '../intake/reading'
import { storedMessage } from '../intake/stored-message'

/** What a release comes to for one copy. */
export interface Release {
  ruling: DoorRuling
  state: ReturnType<typeof stateByRuling>
  /** It is delivered; otherwise another's stop stands. */
  delivered: boolean
}

/**
 * Settles a held copy again without the stops of its quarantine, and of those from which it was released before. What else
 * stops it stands; but a release loses nothing, so what would refuse or erase it now sends it to the bin.
 * @param ownPlaces also by the reader's own places, instead of straight to the inbox
 * @returns null where the bytes are gone: then there is nothing to decide
 */
export async function settleRelease(
  tx: Tx,
  copy: Copy,
  inForce: InForce,
  { now, ownPlaces }: { now: Date, ownPlaces: boolean },
): Promise<Release | null> {
  const stored = await storedMessage(copy, tx)
  if (!stored) return null
  const { message, rulings } = await readAndDecide(
    {
      ...stored,
      recipients: [copy.recipient],
      context: {
        now: now.toISOString(),
        release: { quarantines: [copy.quarantineId ?? 'general', ...(await releasedFrom(tx, copy))], ownPlaces },
      },
    },
    inForce.edition,
  )
  const settled = rulings[0]!
  const ruling: DoorRuling = {
    ...settled,
    decidedLane: settled.lane,
    lane: settled.lane === 'refused' || settled.lane === 'dropped' ? 'bin' : settled.lane,
  }
  const delivered = isDelivered(ruling.lane)
  return { ruling, state: stateByRuling(ruling, message.content), delivered }
}

// Two quarantines that both hold a copy would otherwise hand it to and fro.
async function releasedFrom(tx: Tx, copy: Copy): Promise<string[]> {
  const rows = await tx
    .selectDistinct({ quarantine: sql<string | null>`${actItems.before} ->> 'quarantineId'` })
    .from(actItems)
    .innerJoin(acts, eq(acts.id, actItems.actId))
    .where(
      and(
        eq(actItems.copyId, copy.id),
        eq(acts.kind, 'released'),
        sql`${actItems.before} ->> 'lane' = 'quarantine'`,
        isNull(sql`(select u.id from acts u where u.undoes = ${acts.id})`),
      ),
    )
  return rows.flatMap(r => r.quarantine ?? [])
}
