import { eq, sql } from 'drizzle-orm'
import { isDelivered, isKeptAway, isKeptHere, type KeptLane } from '#core'
import { db, type Tx } from '../db/client'
import { actItems, copies, type CopyState } from '../db/schema'
import { recordAct } from '../audit/record'
import { mayLetOut, reviews, type Copy } from '../access/copy-access'
import { may, type Asker } from '../access/roles'
import { claimsOf, rulingRow } from './decision-rows'
import { notAskedFor } from '../retention/erase'
import { sentenceFor } from '../access/others-clauses'
import { isOneOf, lockCopies, movedTo, stateOf, type Elsewhere, type Moved, type Versions } from './locked-copies'
import { implyWanted, judgeRows, notSaidYet } from './judgements'
import { keepRuling } from './stored-decisions'
import { settleRelease } from './releases'
import { answerRequestsFor } from '../requests/request-answers'
import { policyInForce } from '../policy/active-policy'
import { invalid, notAllowed, type Problem } from '../platform/problem'
import { someAtATime } from '../platform/slices'

/** Where copies are sent, and how. */
export interface Move {
  lane: KeptLane
  /** Which quarantine; the general one unless said. */
  quarantine?: string | null
  /** Of each copy as the asker saw it; one that was changed since stops the whole act. */
  versions: Versions
  /** A release also goes by the reader's own places, instead of straight to the inbox. */
  ownPlaces?: boolean
  /** Said of them in the same act. */
  judge?: 'wanted' | 'unwanted'
  /** Why held mail is rejected, for the record and for whoever asked for it. */
  reason?: string
}

/**
 * Sends copies to a lane. A move is an act, not a ruling; a move to the inbox out of a lane that stops implies that
 * the copy is wanted. Out of a quarantine to its reader, inbox or slow lane, is a release: it settles again, and another's
 * stop stands.
 */
export async function moveCopies(
  asker: Asker,
  ids: readonly number[],
  { lane, quarantine = null, versions, ownPlaces = false, judge, reason }: Move,
): Promise<Moved> {
  const to = await quarantineFor(lane, quarantine)
  return db().transaction(async (tx) => {
    const rows = await lockCopies(tx, asker, ids, versions)
    if (to !== null) mustReview(asker, to)
    for (const copy of rows) mayMove(asker, copy, lane)
    if (lane === 'bin' && !reason) await mustNotBeAskedFor(tx, rows)
    const moving = rows.filter(c => !isThere(c, lane, to))
    const judging = judge ? await notSaidYet(tx, rows, judge) : []
    const acted = rows.filter(c => moving.includes(c) || judging.includes(c))
    if (!acted.length) return { actId: null, changed: 0, copies: rows.map(c => ({ id: c.id, version: c.version })) }
    const kind = moving.length ? kindOfMove(moving, lane) : 'judged'
    const actId = await recordAct(tx, {
      personId: asker.id,
      kind,
      detail: {
        ...(moving.length ? { lane, quarantine: to } : {}),
        count: acted.length,
        ...(judge ? { value: judge } : {}),
        ...(reason ? { reason } : {}),
        ...(ownPlaces ? { ownPlaces } : {}),
      },
    })
    const elsewhere = moving.length ? await moveRows(tx, asker, moving, { actId, lane, to, ownPlaces, reason }) : []
    if (judge) await judgeRows(tx, asker, judging, { actId, value: judge })
    return { ...(await movedTo(tx, actId, acted)), ...(kind === 'released' ? { elsewhere } : {}) }
  })
}

/** Which quarantine copies are sent to; null where it is another lane. @throws where there is none of that id */
export async function quarantineFor(lane: KeptLane, quarantine: string | null | undefined): Promise<string | null> {
  if (lane !== 'quarantine') return null
  await knownQuarantine(quarantine ?? 'general')
  return quarantine ?? 'general'
}

/** Whether a copy lies where it is sent already. */
export function isThere(copy: Pick<Copy, 'lane' | 'quarantineId'>, lane: KeptLane, quarantine: string | null): boolean {
  return copy.lane === lane && copy.quarantineId === quarantine
}

function kindOfMove(moving: readonly Copy[], lane: KeptLane): 'released' | 'rejected' | 'moved' {
  if (!moving.some(c => c.lane === 'quarantine')) return 'moved'
  return lane === 'bin' ? 'rejected' : isKeptAway(lane) ? 'moved' : 'released'
}

/** Where copies go, as part of which act. */
export interface Moving {
  actId: number
  lane: KeptLane
  /** The quarantine, where that is the lane. */
  to: string | null
  ownPlaces: boolean
  reason?: string
  /** Nobody has looked: a move to the inbox says nothing of what is wanted. */
  unseen?: boolean
}

/** Moves locked copies, as part of an act that is on record. @returns those that a release could not deliver */
export async function moveRows(
  tx: Tx,
  asker: Asker,
  rows: readonly Copy[],
  { actId, lane, to, ownPlaces, reason, unseen = false }: Moving,
): Promise<Elsewhere[]> {
  const releasing = isKeptAway(lane) ? [] : rows.filter(c => c.lane === 'quarantine')
  const plain = rows.filter(c => !releasing.includes(c))
  const now = new Date()
  const after: CopyState = { lane, quarantineId: to, folder: null, laneSince: now.toISOString(), movedBy: asker.name }
  if (plain.length) {
    await someAtATime(plain, some => tx.insert(actItems).values(some.map(c => ({ actId, copyId: c.id, before: stateOf(c), after }))))
    await tx
      .update(copies)
      .set({ ...after, laneSince: now, version: sql`${copies.version} + 1` })
      .where(isOneOf(plain))
  }
  const elsewhere = releasing.length ? await releaseRows(tx, asker, releasing, { actId, lane, ownPlaces, now }) : []
  await implyWanted(tx, asker, actId, isDelivered(lane) && !unseen ? rows : [])
  const stuck = new Set(elsewhere.map(e => e.id))
  const answer = { actId, by: asker.id, reason }
  if (isDelivered(lane)) await answerRequestsFor(tx, rows.filter(c => !stuck.has(c.id)), { ...answer, state: 'given' })
  else if (lane === 'bin') await answerRequestsFor(tx, rows, { ...answer, state: 'declined' })
  return elsewhere
}

// Out of a quarantine a copy is settled again.
async function releaseRows(
  tx: Tx,
  asker: Asker,
  rows: readonly Copy[],
  { actId, lane, ownPlaces, now }: Omit<Moving, 'to'> & { now: Date },
): Promise<Elsewhere[]> {
  const inForce = await policyInForce()
  const elsewhere: Elsewhere[] = []
  for (const copy of rows) {
    const settled = await settleRelease(tx, copy, inForce, { now, ownPlaces })
    // Where nobody else stops it, it goes where it was sent.
    const sent = { lane, quarantineId: null, folder: null }
    const state = settled ? { ...settled.state, ...(settled.delivered && lane === 'slow lane' ? sent : {}) } : sent
    const after = {
      ...state,
      movedBy: settled && !settled.delivered ? null : asker.name,
      rulingId: settled
        ? await keepRuling(tx, copy.id, rulingRow(settled.ruling, now.toISOString()), claimsOf(settled.ruling))
        : copy.rulingId,
    }
    await tx.insert(actItems).values({ actId, copyId: copy.id, before: stateOf(copy), after: { ...after, laneSince: now.toISOString() } })
    await tx
      .update(copies)
      .set({ ...after, laneSince: now, version: copy.version + 1 })
      .where(eq(copies.id, copy.id))
    if (settled && !settled.delivered)
      elsewhere.push({
        id: copy.id,
        lane: settled.ruling.lane,
        quarantine: settled.ruling.quarantine,
        why: sentenceFor(asker, settled.ruling, inForce.policy),
      })
  }
  return elsewhere
}

async function knownQuarantine(id: string): Promise<void> {
  const { policy } = await policyInForce()
  if (!policy.quarantines.some(q => q.id === id))
    throw invalid(`There is no quarantine “${id}”.`, { quarantine: 'Choose one that exists.' })
}

function mayMove(asker: Asker, copy: Copy, lane: KeptLane): void {
  if (!isKeptHere(copy.lane))
    throw invalid(`“${copy.subject}” was ${copy.lane}: there is nothing here that could be moved.`)
  if (!isMovable(asker, copy, lane)) throw notAHolder()
}

// A no is read by whoever asked.
async function mustNotBeAskedFor(tx: Tx, rows: readonly Copy[]): Promise<void> {
  const free = await notAskedFor(tx, rows)
  const asked = rows.find(c => !free.includes(c))
  if (asked)
    throw invalid(`“${asked.subject || 'This message'}” is asked for, and whoever asks reads why not: reject it in Review, with a `
      + `reason.`, {
      reason: 'Say why not.',
    })
}

/** Whether somebody may send a copy to a lane, as far as quarantines have a say in it. */
export function isMovable(asker: Asker, copy: Copy, lane: KeptLane): boolean {
  if (lane === 'quarantine' && !may(asker, 'hold and release')) return false
  // Its reader may let it out where that is so settled, and put it nowhere else.
  return copy.lane !== 'quarantine' || (isDelivered(lane) ? mayLetOut(asker, copy) : reviews(asker, copy.quarantineId ?? 'general'))
}

/** @throws where a quarantine is not the asker's to put mail into */
export function mustReview(asker: Asker, quarantine: string): void {
  if (!may(asker, 'hold and release')) throw notAHolder()
  if (!reviews(asker, quarantine)) throw notAllowed('Only those who review this quarantine, and administrators, put mail into it.')
}

function notAHolder(): Problem {
  return notAllowed('Only reviewers and administrators send mail into a quarantine or release it from there.')
}
