import { LANE_NAMES } from '#core/words'
import { eq, sql } from 'drizzle-orm'
import { isDelivered, isKeptAway, isKeptHere, type KeptLane } from '#core'
import { db, type Tx } from '../db/client'
import { auditEventItems, copies, type CopyState } from '../db/schema'
import { recordEvent } from '../audit/record'
import { actionsOn, NO_REQUESTS } from '../access/copy-actions'
import { reviews, type Copy } from '../access/copy-access'
import { can, type Actor } from '../access/roles'
import { claimsOf, decisionRow } from './decision-rows'
import { sentenceFor } from '../access/others-clauses'
import { isOneOf, lockCopies, movedTo, stateOf, type NotReleased, type MovedCopies, type Versions } from './locked-copies'
import { implyWanted, markRows, notSaidYet } from './judgements'
import { storeDecision } from './stored-decisions'
import { mustHaveSeenForgeries } from './possible-forgeries'
import { settleRelease } from './releases'
import { openRequestsFor } from '../requests/open-requests'
import { answerRequestsFor } from '../requests/request-answers'
import { activePolicy } from '../policy/active-policy'
import { invalid, notAllowed, type Problem } from '../platform/problem'
import { someAtATime } from '../platform/slices'

/** Where copies are sent, and how. */
export interface Move {
  lane: KeptLane
  /** Which quarantine; the general one unless said. */
  quarantine?: string | null
  /** Of each copy as the actor saw it; one that was changed since stops the whole event. */
  versions: Versions
  /** A release also goes by the recipient's own places, instead of straight to the inbox. */
  ownPlaces?: boolean
  /** Said of them in the same event. */
  mark?: 'wanted' | 'unwanted'
  /** Why held mail is rejected, for the record and for whoever asked for it. */
  reason?: string
  /** Ids of messages that are let in though they may be forged: the actor has seen what they claim and what was found. */
  confirmed?: number[]
}

/**
 * Sends copies to a lane. A move is an event, not a decision; a move to the inbox out of a lane that stops implies that
 * the copy is wanted. Out of a quarantine to its recipient, inbox or low priority, is a release: it settles again, and another's
 * stop stands.
 */
export async function moveCopies(
  actor: Actor,
  ids: readonly number[],
  { lane, quarantine = null, versions, ownPlaces = false, mark, reason, confirmed }: Move,
): Promise<MovedCopies> {
  const to = await quarantineFor(lane, quarantine)
  return db().transaction(async (tx) => {
    const rows = await lockCopies(tx, actor, ids, versions)
    if (to !== null) mustReview(actor, to)
    await mustBeMovable(tx, actor, rows, { lane, isAnswered: Boolean(reason) })
    const moving = rows.filter(c => !isThere(c, lane, to))
    await mustHaveSeenForgeries(tx, actor, moving, { lane, confirmed })
    const marking = mark ? await notSaidYet(tx, rows, mark) : []
    const acted = rows.filter(c => moving.includes(c) || marking.includes(c))
    if (!acted.length) return { eventId: null, changed: 0, copies: rows.map(c => ({ id: c.id, version: c.version })) }
    const kind = moving.length ? kindOfMove(moving, lane) : 'marked'
    const eventId = await recordEvent(tx, {
      personId: actor.id,
      kind,
      detail: {
        ...(moving.length ? { lane, quarantine: to } : {}),
        count: acted.length,
        ...(mark ? { value: mark } : {}),
        ...(reason ? { reason } : {}),
        ...(ownPlaces ? { ownPlaces } : {}),
      },
    })
    const notReleased = moving.length ? await moveRows(tx, actor, moving, { eventId, lane, to, ownPlaces, reason }) : []
    if (mark) await markRows(tx, actor, marking, { eventId, value: mark })
    return { ...(await movedTo(tx, eventId, acted)), ...(kind === 'released' ? { notReleased } : {}) }
  })
}

/** Which quarantine copies are sent to; null where it is another lane. @throws where there is none of that id */
export async function quarantineFor(lane: KeptLane, quarantine: string | null | undefined): Promise<string | null> {
  if (lane !== 'quarantine') return null
  await knownQuarantine(quarantine ?? 'general')
  return quarantine ?? 'general'
}

/** Whether a copy is already where it is moved to; filed mail is out of Inbox. */
export function isThere(copy: Pick<Copy, 'lane' | 'quarantineId' | 'filed'>, lane: KeptLane, quarantine: string | null): boolean {
  return copy.lane === lane && copy.quarantineId === quarantine && !copy.filed
}

function kindOfMove(moving: readonly Copy[], lane: KeptLane): 'released' | 'binned' | 'moved' {
  if (!moving.some(c => c.lane === 'quarantine')) return 'moved'
  return lane === 'bin' ? 'binned' : isKeptAway(lane) ? 'moved' : 'released'
}

/** Where copies go, as part of which act. */
export interface Moving {
  eventId: number
  lane: KeptLane
  /** The quarantine, where that is the lane. */
  to: string | null
  ownPlaces: boolean
  reason?: string
  /** Nobody has looked: a move to the inbox says nothing of what is wanted. */
  unseen?: boolean
}

/** Moves locked copies, as part of an event that is on record. @returns those that a release could not deliver */
export async function moveRows(
  tx: Tx,
  actor: Actor,
  rows: readonly Copy[],
  { eventId, lane, to, ownPlaces, reason, unseen = false }: Moving,
): Promise<NotReleased[]> {
  const releasing = isKeptAway(lane) ? [] : rows.filter(c => c.lane === 'quarantine')
  const plain = rows.filter(c => !releasing.includes(c))
  const now = new Date()
  const after: CopyState = { lane, quarantineId: to, folder: null, filed: false, laneSince: now.toISOString(), movedBy: actor.name }
  if (plain.length) {
    const items = (some: readonly Copy[]) => some.map(c => ({ eventId, copyId: c.id, before: stateOf(c), after }))
    await someAtATime(plain, some => tx.insert(auditEventItems).values(items(some)))
    await tx
      .update(copies)
      .set({ ...after, laneSince: now, version: sql`${copies.version} + 1` })
      .where(isOneOf(plain))
  }
  const notReleased = releasing.length ? await releaseRows(tx, actor, releasing, { eventId, lane, ownPlaces, now }) : []
  await implyWanted(tx, actor, eventId, isDelivered(lane) && !unseen ? rows : [])
  const stuck = new Set(notReleased.map(e => e.id))
  const answer = { eventId, by: actor.id, reason }
  if (isDelivered(lane)) await answerRequestsFor(tx, rows.filter(c => !stuck.has(c.id)), { ...answer, state: 'released' })
  else if (lane === 'bin') await answerRequestsFor(tx, rows, { ...answer, state: 'declined' })
  return notReleased
}

// Out of a quarantine a copy is settled again.
async function releaseRows(
  tx: Tx,
  actor: Actor,
  rows: readonly Copy[],
  { eventId, lane, ownPlaces, now }: Omit<Moving, 'to'> & { now: Date },
): Promise<NotReleased[]> {
  const active = await activePolicy()
  const notReleased: NotReleased[] = []
  for (const copy of rows) {
    const settled = await settleRelease(tx, copy, active, { now, ownPlaces })
    // Where nobody else stops it, it goes where it was sent.
    const sent = { lane, quarantineId: null, folder: null, filed: false }
    const state = settled ? { ...settled.state, ...(settled.delivered && lane === 'lowPriority' ? sent : {}) } : sent
    const after = {
      ...state,
      movedBy: settled && !settled.delivered ? null : actor.name,
      decisionId: settled
        ? await storeDecision(tx, copy.id, decisionRow(settled.decision, now.toISOString()), claimsOf(settled.decision))
        : copy.decisionId,
    }
    await tx
      .insert(auditEventItems)
      .values({ eventId, copyId: copy.id, before: stateOf(copy), after: { ...after, laneSince: now.toISOString() } })
    await tx
      .update(copies)
      .set({ ...after, laneSince: now, version: copy.version + 1 })
      .where(eq(copies.id, copy.id))
    if (settled && !settled.delivered)
      notReleased.push({
        id: copy.id,
        lane: settled.decision.lane,
        quarantine: settled.decision.quarantine,
        why: sentenceFor(actor, settled.decision, active.policy),
      })
  }
  return notReleased
}

async function knownQuarantine(id: string): Promise<void> {
  const { policy } = await activePolicy()
  if (!policy.quarantines.some(q => q.id === id))
    throw invalid(`Quarantine “${id}” does not exist.`, { quarantine: 'Choose an existing quarantine.' })
}

/** @param isAnswered who requested release is told a reason */
async function mustBeMovable(
  tx: Tx,
  actor: Actor,
  rows: readonly Copy[],
  { lane, isAnswered }: { lane: KeptLane, isAnswered: boolean },
): Promise<void> {
  const requestsFor = isAnswered ? () => NO_REQUESTS : await openRequestsFor(tx, actor, rows)
  for (const copy of rows) {
    if (actionsOn(actor, copy, requestsFor(copy)).move.includes(lane)) continue
    if (!isKeptHere(copy.lane))
      throw invalid(`“${copy.subject}” was ${LANE_NAMES[copy.lane].toLowerCase()}, so there is no message to move.`)
    if (!isMovable(actor, copy, lane)) throw notAHolder()
    throw invalid(
      `Release of “${copy.subject || 'this message'}” was requested, and the recipient reads the reason: `
      + 'decline it in Review, with a reason.',
      { reason: 'Enter a reason.' },
    )
  }
}

/** Whether somebody may move a copy to a lane, whoever requested its release. */
export function isMovable(actor: Actor, copy: Copy, lane: KeptLane): boolean {
  return actionsOn(actor, copy, NO_REQUESTS).move.includes(lane)
}

/** @throws where a quarantine is not the actor's to put mail into */
export function mustReview(actor: Actor, quarantine: string): void {
  if (!can(actor, 'hold and release')) throw notAHolder()
  if (!reviews(actor, quarantine)) throw notAllowed('Only reviewers of this quarantine and administrators can move mail into it.')
}

function notAHolder(): Problem {
  return notAllowed('Only reviewers and administrators can move mail into this quarantine or release it.')
}
