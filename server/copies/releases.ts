import { and, eq, isNull, sql } from 'drizzle-orm'
import { isDelivered, type FinalDecision } from '#core'
import type { Tx } from '../db/client'
import { auditEventItems, auditEvents } from '../db/schema'
import { stateByDecision } from './decision-rows'
import type { Copy } from '../access/copy-access'
import type { ActivePolicy } from '../policy/active-policy'
import { readAndDecide } from '../intake/reading'
import { storedMessage } from '../intake/stored-message'

/** What a release comes to for one copy. */
export interface Release {
  decision: FinalDecision
  state: ReturnType<typeof stateByDecision>
  /** It is delivered; otherwise another's stop stands. */
  delivered: boolean
}

/**
 * Settles a held copy again without the stops of its quarantine, and of those from which it was released before. What else
 * stops it stands; but a release loses nothing, so what would refuse or erase it now sends it to the bin.
 * @param ownPlaces also by the recipient's own places, instead of straight to the inbox
 * @returns null where the bytes are gone: then there is nothing to decide
 */
export async function settleRelease(
  tx: Tx,
  copy: Copy,
  active: ActivePolicy,
  { now, ownPlaces }: { now: Date, ownPlaces: boolean },
): Promise<Release | null> {
  const stored = await storedMessage(copy, tx)
  if (!stored) return null
  const { message, decisions } = await readAndDecide(
    {
      ...stored,
      recipients: [copy.recipient],
      context: {
        now: now.toISOString(),
        release: { quarantines: [copy.quarantineId ?? 'general', ...(await releasedFrom(tx, copy))], ownPlaces },
      },
    },
    active.edition,
  )
  const settled = decisions[0]!
  const decision: FinalDecision = {
    ...settled,
    decidedLane: settled.lane,
    lane: settled.lane === 'refused' || settled.lane === 'discarded' ? 'bin' : settled.lane,
  }
  const delivered = isDelivered(decision.lane)
  return { decision, state: stateByDecision(decision, message.content), delivered }
}

// Two quarantines that both hold a copy would otherwise hand it to and fro.
async function releasedFrom(tx: Tx, copy: Copy): Promise<string[]> {
  const rows = await tx
    .selectDistinct({ quarantine: sql<string | null>`${auditEventItems.before} ->> 'quarantineId'` })
    .from(auditEventItems)
    .innerJoin(auditEvents, eq(auditEvents.id, auditEventItems.eventId))
    .where(
      and(
        eq(auditEventItems.copyId, copy.id),
        eq(auditEvents.kind, 'released'),
        sql`${auditEventItems.before} ->> 'lane' = 'quarantine'`,
        isNull(sql`(select u.id from audit_events u where u.undoes = ${auditEvents.id})`),
      ),
    )
  return rows.flatMap(r => r.quarantine ?? [])
}
