import { and, desc, eq, inArray, isNull, ne, or, sql } from 'drizzle-orm'
import { alias } from 'drizzle-orm/pg-core'
import { recordAct } from '../audit/record'
import { isOwn, reviews, visibleTo } from '../access/copy-access'
import { may, type Asker } from '../access/roles'
import { db } from '../db/client'
import { copies, people, quarantineSettings, requests, type RequestState } from '../db/schema'
import { invalid, notAllowed, notFound, somebodyFaster } from '../platform/problem'
import { letOutMeanwhile, lockCopies, type Elsewhere } from '../copies/locked-copies'
import { linesOf, type CopyLine } from '../copies/copies'
import { moveRows } from '../copies/moves'
import { holdCopiesOf, toBeOrdered } from './request-answers'

/** Somebody's wish for a held message, as it is told. */
export interface RequestLine {
  id: number
  at: string
  /** Name of who asks. */
  by: string
  mine: boolean
  note: string
  /** The message; null where the asker sees it no more. */
  copy: CopyLine | null
  state: RequestState
  mayAnswer: boolean
  answeredBy: string | null
  answeredAt: string | null
  reason: string | null
  /** The act that takes the asking back, where it is the asker's. */
  takesBack: number | null
  /** The answer is one that the asker has not seen yet. */
  news: boolean
}

/** So many of one person's wait at a time. */
const MOST_OPEN = 200
const MOST_SHOWN = 200
const answerers = alias(people, 'answerers')

/** Asks for one's own held mail. Who reviews it sees that first. */
export async function askFor(asker: Asker, ids: readonly number[], note: string): Promise<{ act: number | null, asked: number }> {
  return db().transaction(async (tx) => {
    const rows = await lockCopies(tx, asker, ids, 'any')
    for (const copy of rows) {
      if (!isOwn(asker, copy)) throw notAllowed('Only for mail that is your own you can ask.')
      if (copy.lane !== 'quarantine') throw invalid(`“${copy.subject}” is not held: it can be moved without asking.`)
    }
    const closed = await tx
      .select({ id: quarantineSettings.quarantineId })
      .from(quarantineSettings)
      .where(eq(quarantineSettings.mayAsk, false))
    if (rows.some(c => closed.some(q => q.id === c.quarantineId)))
      throw notAllowed('What this quarantine holds cannot be asked for here. Speak with your mail administrator.')
    const [waiting] = await tx
      .select({ n: sql<number>`count(*)::int` })
      .from(requests)
      .where(and(eq(requests.personId, asker.id), eq(requests.state, 'open')))
    if (waiting!.n + rows.length > MOST_OPEN)
      throw invalid(`You have asked for ${waiting!.n} messages already; wait for some answers first.`)
    const made = await tx
      .insert(requests)
      .values(rows.map(c => ({ copyId: c.id, personId: asker.id, note })))
      .onConflictDoNothing()
      .returning({ id: requests.id, copyId: requests.copyId })
    // Twice the same is one wish.
    if (!made.length) return { act: null, asked: 0 }
    const act = await recordAct(tx, { personId: asker.id, kind: 'asked', detail: { count: made.length, note } })
    await tx.update(requests).set({ askedBy: act }).where(inArray(requests.id, made.map(m => m.id)))
    await toBeOrdered(tx, made.map(m => m.copyId))
    return { act, asked: made.length }
  })
}

/** How many wait for the asker's answer, and how many answers they have not seen. */
export interface RequestCounts {
  waiting: number
  news: number
}

/** What waits for the asker's answer, and what they asked for themselves: what waits first, the newest of each first. */
export async function listRequests(asker: Asker): Promise<{ items: RequestLine[] } & RequestCounts> {
  const rows = await db()
    .select({ request: requests, quarantine: copies.quarantineId, lane: copies.lane, by: people.name, answerer: answerers.name })
    .from(requests)
    .innerJoin(copies, eq(copies.id, requests.copyId))
    .leftJoin(people, eq(people.id, requests.personId))
    .leftJoin(answerers, eq(answerers.id, requests.answeredBy))
    .where(and(ne(requests.state, 'withdrawn'), or(eq(requests.personId, asker.id), answerable(asker))))
    .orderBy(sql`${requests.state} <> 'open'`, desc(requests.id))
    .limit(MOST_SHOWN)
  const lines = new Map((await linesOf(asker, rows.map(r => r.request.copyId))).map(line => [line.id, line]))
  return {
    items: rows.map(({ request: r, quarantine, lane, by, answerer }) => ({
      id: r.id,
      at: r.at.toISOString(),
      by: by ?? 'somebody who has left',
      mine: r.personId === asker.id,
      note: r.note,
      copy: lines.get(r.copyId) ?? null,
      state: r.state,
      mayAnswer: r.state === 'open' && lane === 'quarantine' && reviews(asker, quarantine ?? 'general'),
      answeredBy: r.answeredBy === null ? null : (answerer ?? 'somebody who has left'),
      answeredAt: r.answeredAt?.toISOString() ?? null,
      reason: r.reason,
      takesBack: r.state === 'open' && r.personId === asker.id ? r.askedBy : null,
      news: r.personId === asker.id && isAnswered(r.state) && r.seenAt === null,
    })),
    ...(await countRequests(asker)),
  }
}

function isAnswered(state: RequestState): boolean {
  return state === 'given' || state === 'declined'
}

// Of open ones those for mail that the asker reviews.
function answerable(asker: Asker) {
  if (!may(asker, 'hold and release')) return sql`false`
  return and(eq(requests.state, 'open'), eq(copies.lane, 'quarantine'), visibleTo(asker))
}

export async function countRequests(asker: Asker): Promise<RequestCounts> {
  const [row] = await db()
    .select({
      waiting: sql<number>`(count(*) filter (where ${answerable(asker)}))::int`,
      news: sql<number>`(count(*) filter (
        where ${requests.personId} = ${asker.id} and ${requests.state} in ('given', 'declined') and ${requests.seenAt} is null))::int`,
    })
    .from(requests)
    .innerJoin(copies, eq(copies.id, requests.copyId))
    .where(or(eq(requests.state, 'open'), eq(requests.personId, asker.id)))
  return row!
}

/** What an answer came to. */
export interface Given {
  state: RequestState
  act: number
  /** Another's stop stands: then it is asked for there. */
  elsewhere: Elsewhere[]
}

/** Gives what was asked for, or says why not. @throws where it was answered meanwhile */
export async function answerRequest(asker: Asker, id: number, { give, reason }: { give: boolean, reason?: string }): Promise<Given> {
  if (!give && !reason) throw invalid('Say why not: whoever asked reads it.', { reason: 'Say why not.' })
  return db().transaction(async (tx) => {
    await holdCopiesOf(tx, eq(requests.id, id))
    const [asked] = await tx.select().from(requests).where(eq(requests.id, id)).for('update')
    const [seen] = asked ? await tx.select().from(copies).where(and(eq(copies.id, asked.copyId), visibleTo(asker))) : []
    if (!asked || asked.state === 'withdrawn') throw notFound('request of that number')
    // What another reviewer has given is its reader's again, and out of sight.
    if (!seen) throw (await letOutMeanwhile(tx, asker, [asked.copyId])) ?? notFound('request of that number')
    if (!may(asker, 'hold and release')) throw notAllowed('Whoever reviews this quarantine answers.')
    if (asked.state !== 'open') throw somebodyFaster('This request has been answered already; it')
    const [copy] = await lockCopies(tx, asker, [asked.copyId], 'any')
    if (copy!.lane !== 'quarantine') throw invalid('It is not held any more: there is nothing to answer.')
    if (!reviews(asker, copy!.quarantineId ?? 'general')) throw notAllowed('Whoever reviews this quarantine answers.')
    if (give) {
      const detail = { lane: 'inbox', quarantine: null, count: 1, request: id }
      const act = await recordAct(tx, { personId: asker.id, kind: 'released', detail })
      const elsewhere = await moveRows(tx, asker, [copy!], { actId: act, lane: 'inbox', to: null, ownPlaces: false, reason })
      return { state: elsewhere.length ? 'open' : 'given', act, elsewhere }
    }
    const act = await recordAct(tx, { personId: asker.id, kind: 'refused', detail: { request: id, reason: reason! } })
    await tx
      .update(requests)
      .set({ state: 'declined', reason: reason!, answeredBy: asker.id, answeredAt: new Date(), actId: act, seenAt: null })
      .where(eq(requests.id, id))
    await toBeOrdered(tx, [asked.copyId])
    return { state: 'declined', act, elsewhere: [] }
  })
}

/** The asker has read the answers to these of their requests. */
export async function sawGiven(asker: Asker, ids: readonly number[]): Promise<void> {
  await db()
    .update(requests)
    .set({ seenAt: new Date() })
    .where(and(inArray(requests.id, [...ids]), eq(requests.personId, asker.id), isNull(requests.seenAt), ne(requests.state, 'open')))
}

/** Takes back that mail was asked for, as far as nobody has answered. */
export async function withdrawRequests(asker: Asker, act: { id: number, detail: Record<string, unknown> }): Promise<number> {
  return db().transaction(async (tx) => {
    await holdCopiesOf(tx, eq(requests.askedBy, act.id))
    const rows = await tx
      .update(requests)
      .set({ state: 'withdrawn' })
      .where(and(eq(requests.askedBy, act.id), eq(requests.state, 'open')))
      .returning({ id: requests.copyId })
    if (!rows.length) throw somebodyFaster('This request')
    await toBeOrdered(tx, rows.map(r => r.id))
    const detail = { act: act.id, kind: 'asked', words: 'took back a request' }
    return recordAct(tx, { personId: asker.id, kind: 'taken back', detail, undoes: act.id })
  })
}

/** Whether somebody may answer a request today: who reviews the quarantine that holds its message. */
export async function mayAnswerAgain(asker: Asker, id: number): Promise<boolean> {
  const [copy] = await db()
    .select({ lane: copies.lane, quarantine: copies.quarantineId })
    .from(requests)
    .innerJoin(copies, eq(copies.id, requests.copyId))
    .where(and(eq(requests.id, id), visibleTo(asker)))
  return copy !== undefined && copy.lane === 'quarantine' && reviews(asker, copy.quarantine ?? 'general')
}

/** Takes back that a request was declined: it waits again. */
export async function takeBackRefusal(asker: Asker, act: { id: number, detail: Record<string, unknown> }): Promise<number> {
  return db().transaction(async (tx) => {
    await holdCopiesOf(tx, eq(requests.id, Number(act.detail.request)))
    const [again] = await tx
      .update(requests)
      .set({ state: 'open', reason: null, answeredBy: null, answeredAt: null, actId: null, seenAt: null })
      .where(and(eq(requests.id, Number(act.detail.request)), eq(requests.actId, act.id), eq(requests.state, 'declined')))
      .returning({ id: requests.copyId })
    if (!again) throw somebodyFaster('This request')
    await toBeOrdered(tx, [again.id])
    const detail = { act: act.id, kind: 'refused', words: 'took back that a request was declined' }
    return recordAct(tx, { personId: asker.id, kind: 'taken back', detail, undoes: act.id })
  })
}
