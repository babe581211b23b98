import { and, desc, eq, inArray, isNull, ne, or, sql } from 'drizzle-orm'
import { alias } from 'drizzle-orm/pg-core'
import { counted } from '#core/wording'
import { recordEvent } from '../audit/record'
import { actionsOn, NO_REQUESTS } from '../access/copy-actions'
import { isOwn, reviews, visibleTo } from '../access/copy-access'
import { can, type Actor } from '../access/roles'
import { db } from '../db/client'
import { copies, people, releaseRequests, type RequestState } from '../db/schema'
import { alreadyDone, conflict, invalid, notAllowed, notFound } from '../platform/problem'
import { letOutMeanwhile, lockCopies, type NotReleased } from '../copies/locked-copies'
import { linesOf, type CopyView } from '../copies/copies'
import { moveRows } from '../copies/moves'
import { mustHaveSeenForgeries } from '../copies/possible-forgeries'
import { holdCopiesOf, toBeRanked } from './request-answers'

/** Somebody's wish for a held message, as it is told. */
export interface ReleaseRequestView {
  id: number
  at: string
  /** Name of who asks. */
  by: string
  mine: boolean
  note: string
  /** The message; null where the actor sees it no more. */
  copy: CopyView | null
  state: RequestState
  canAnswer: boolean
  answeredBy: string | null
  answeredAt: string | null
  reason: string | null
  /** The act that takes the asking back, where it is the actor's. */
  takesBack: number | null
  /** The answer is one that the actor has not seen yet. */
  news: boolean
}

/** So many of one person's wait at a time. */
const MAX_OPEN = 200
const MAX_SHOWN = 200
const answerers = alias(people, 'answerers')

/** Asks for one's own held mail. Who reviews it sees that first. */
export async function requestRelease(
  actor: Actor,
  ids: readonly number[],
  note: string,
): Promise<{ eventId: number | null, asked: number }> {
  return db().transaction(async (tx) => {
    const rows = await lockCopies(tx, actor, ids, 'any')
    for (const copy of rows) {
      // Twice the same is one request.
      if (actionsOn(actor, copy, NO_REQUESTS).requestRelease) continue
      if (!isOwn(actor, copy)) throw notAllowed('You can request release only of your own mail.')
      if (copy.lane !== 'quarantine') throw invalid(`“${copy.subject}” is not in quarantine. You can move it yourself.`)
      throw notAllowed('Release from this quarantine cannot be requested. Contact your mail administrator.')
    }
    const [waiting] = await tx
      .select({ n: sql<number>`count(*)::int` })
      .from(releaseRequests)
      .where(and(eq(releaseRequests.personId, actor.id), eq(releaseRequests.state, 'open')))
    if (waiting!.n + rows.length > MAX_OPEN)
      throw invalid(`You already have ${counted(waiting!.n, 'open release request')}. Wait for some answers first.`)
    const made = await tx
      .insert(releaseRequests)
      .values(rows.map(c => ({ copyId: c.id, personId: actor.id, note })))
      .onConflictDoNothing()
      .returning({ id: releaseRequests.id, copyId: releaseRequests.copyId })
    if (!made.length) return { eventId: null, asked: 0 }
    const eventId = await recordEvent(tx, { personId: actor.id, kind: 'requestedRelease', detail: { count: made.length, note } })
    await tx.update(releaseRequests).set({ requestEventId: eventId }).where(inArray(releaseRequests.id, made.map(m => m.id)))
    await toBeRanked(tx, made.map(m => m.copyId))
    return { eventId, asked: made.length }
  })
}

/** How many wait for the actor's answer, and how many answers they have not seen. */
export interface RequestCounts {
  waiting: number
  news: number
}

/** What waits for the actor's answer, and what they asked for themselves: what waits first, the newest of each first. */
export async function listRequests(actor: Actor): Promise<{ items: ReleaseRequestView[] } & RequestCounts> {
  const rows = await db()
    .select({ request: releaseRequests, quarantine: copies.quarantineId, lane: copies.lane, by: people.name, answerer: answerers.name })
    .from(releaseRequests)
    .innerJoin(copies, eq(copies.id, releaseRequests.copyId))
    .leftJoin(people, eq(people.id, releaseRequests.personId))
    .leftJoin(answerers, eq(answerers.id, releaseRequests.answeredBy))
    .where(and(ne(releaseRequests.state, 'withdrawn'), or(eq(releaseRequests.personId, actor.id), answerable(actor))))
    .orderBy(sql`${releaseRequests.state} <> 'open'`, desc(releaseRequests.id))
    .limit(MAX_SHOWN)
  const lines = new Map((await linesOf(actor, rows.map(r => r.request.copyId))).map(line => [line.id, line]))
  return {
    items: rows.map(({ request: r, quarantine, lane, by, answerer }) => ({
      id: r.id,
      at: r.at.toISOString(),
      by: by ?? 'a deactivated user',
      mine: r.personId === actor.id,
      note: r.note,
      copy: lines.get(r.copyId) ?? null,
      state: r.state,
      canAnswer: r.state === 'open' && lane === 'quarantine' && reviews(actor, quarantine ?? 'general'),
      answeredBy: r.answeredBy === null ? null : (answerer ?? 'a deactivated user'),
      answeredAt: r.answeredAt?.toISOString() ?? null,
      reason: r.reason,
      takesBack: r.state === 'open' && r.personId === actor.id ? r.requestEventId : null,
      news: r.personId === actor.id && isAnswered(r.state) && r.seenAt === null,
    })),
    ...(await countRequests(actor)),
  }
}

function isAnswered(state: RequestState): boolean {
  return state === 'released' || state === 'declined'
}

// Of open ones those for mail that the actor reviews.
function answerable(actor: Actor) {
  if (!can(actor, 'hold and release')) return sql`false`
  return and(eq(releaseRequests.state, 'open'), eq(copies.lane, 'quarantine'), visibleTo(actor))
}

export async function countRequests(actor: Actor): Promise<RequestCounts> {
  const [row] = await db()
    .select({
      waiting: sql<number>`(count(*) filter (where ${answerable(actor)}))::int`,
      news: sql<number>`(count(*) filter (
        where ${releaseRequests.personId} = ${actor.id} and ${releaseRequests.state} in ('released', 'declined')
          and ${releaseRequests.seenAt} is null))::int`,
    })
    .from(releaseRequests)
    .innerJoin(copies, eq(copies.id, releaseRequests.copyId))
    .where(or(eq(releaseRequests.state, 'open'), eq(releaseRequests.personId, actor.id)))
  return row!
}

/** What an answer came to. */
export interface RequestAnswered {
  state: RequestState
  eventId: number
  /** Another's stop stands: then it is asked for there. */
  notReleased: NotReleased[]
}

/** Gives what was asked for, or says why not. @throws where it was answered meanwhile */
export async function answerRequest(
  actor: Actor,
  id: number,
  { release, reason, confirmed }: { release: boolean, reason?: string, confirmed?: number[] },
): Promise<RequestAnswered> {
  if (!release && !reason) throw invalid('Enter a reason. The recipient can read it.', { reason: 'Enter a reason.' })
  return db().transaction(async (tx) => {
    await holdCopiesOf(tx, eq(releaseRequests.id, id))
    const [asked] = await tx.select().from(releaseRequests).where(eq(releaseRequests.id, id)).for('update')
    const [seen] = asked ? await tx.select().from(copies).where(and(eq(copies.id, asked.copyId), visibleTo(actor))) : []
    if (!asked || asked.state === 'withdrawn') throw notFound('This request')
    // What another reviewer has given is its recipient's again, and out of sight.
    if (!seen) throw (await letOutMeanwhile(tx, actor, [asked.copyId])) ?? notFound('This request')
    if (!can(actor, 'hold and release')) throw notAllowed('Only a reviewer of this quarantine can answer this request.')
    if (asked.state !== 'open') throw alreadyDone('This request has already been answered.')
    const [copy] = await lockCopies(tx, actor, [asked.copyId], 'any')
    if (copy!.lane !== 'quarantine') throw invalid('The message is no longer in quarantine, so there is nothing to answer.')
    if (!reviews(actor, copy!.quarantineId ?? 'general')) throw notAllowed('Only a reviewer of this quarantine can answer this request.')
    if (release) {
      await mustHaveSeenForgeries(tx, actor, [copy!], { lane: 'inbox', confirmed })
      const detail = { lane: 'inbox', quarantine: null, count: 1, request: id }
      const eventId = await recordEvent(tx, { personId: actor.id, kind: 'released', detail })
      const notReleased = await moveRows(tx, actor, [copy!], { eventId: eventId, lane: 'inbox', to: null, ownPlaces: false, reason })
      return { state: notReleased.length ? 'open' : 'released', eventId, notReleased }
    }
    const eventId = await recordEvent(tx, { personId: actor.id, kind: 'declinedRequest', detail: { request: id, reason: reason! } })
    await tx
      .update(releaseRequests)
      .set({ state: 'declined', reason: reason!, answeredBy: actor.id, answeredAt: new Date(), eventId: eventId, seenAt: null })
      .where(eq(releaseRequests.id, id))
    await toBeRanked(tx, [asked.copyId])
    return { state: 'declined', eventId, notReleased: [] }
  })
}

/** The actor has read the answers to these of their requests. */
export async function sawReleased(actor: Actor, ids: readonly number[]): Promise<void> {
  await db()
    .update(releaseRequests)
    .set({ seenAt: new Date() })
    .where(
      and(
        inArray(releaseRequests.id, [...ids]),
        eq(releaseRequests.personId, actor.id),
        isNull(releaseRequests.seenAt),
        ne(releaseRequests.state, 'open'),
      ),
    )
}

/** Undoes that mail was asked for, as far as nobody has answered. */
export async function withdrawRequests(actor: Actor, auditEvent: { id: number, detail: Record<string, unknown> }): Promise<number> {
  return db().transaction(async (tx) => {
    await holdCopiesOf(tx, eq(releaseRequests.requestEventId, auditEvent.id))
    const rows = await tx
      .update(releaseRequests)
      .set({ state: 'withdrawn' })
      .where(and(eq(releaseRequests.requestEventId, auditEvent.id), eq(releaseRequests.state, 'open')))
      .returning({ id: releaseRequests.copyId })
    if (!rows.length) throw conflict('This request')
    await toBeRanked(tx, rows.map(r => r.id))
    return recordEvent(tx, { personId: actor.id, kind: 'undone', detail: {}, undoes: auditEvent.id })
  })
}

/** Whether somebody may answer a request today: who reviews the quarantine that holds its message. */
export async function canAnswerAgain(actor: Actor, id: number): Promise<boolean> {
  const [copy] = await db()
    .select({ lane: copies.lane, quarantine: copies.quarantineId })
    .from(releaseRequests)
    .innerJoin(copies, eq(copies.id, releaseRequests.copyId))
    .where(and(eq(releaseRequests.id, id), visibleTo(actor)))
  return copy !== undefined && copy.lane === 'quarantine' && reviews(actor, copy.quarantine ?? 'general')
}

/** Undoes that a request was declined: it waits again. */
export async function undoDecline(actor: Actor, auditEvent: { id: number, detail: Record<string, unknown> }): Promise<number> {
  return db().transaction(async (tx) => {
    await holdCopiesOf(tx, eq(releaseRequests.id, Number(auditEvent.detail.request)))
    const [again] = await tx
      .update(releaseRequests)
      .set({ state: 'open', reason: null, answeredBy: null, answeredAt: null, eventId: null, seenAt: null })
      .where(
        and(
          eq(releaseRequests.id, Number(auditEvent.detail.request)),
          eq(releaseRequests.eventId, auditEvent.id),
          eq(releaseRequests.state, 'declined'),
        ),
      )
      .returning({ id: releaseRequests.copyId })
    if (!again) throw conflict('This request')
    await toBeRanked(tx, [again.id])
    return recordEvent(tx, { personId: actor.id, kind: 'undone', detail: {}, undoes: auditEvent.id })
  })
}
