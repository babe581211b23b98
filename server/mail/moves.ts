import { and, eq, inArray, isNull, notExists, sql, type SQL } from 'drizzle-orm'
import { isDelivered, isKeptAway, type KeptLane } from '#core'
import { db, longDb, type Tx } from '../db/client'
import { actItems, acts, copies, judgements, type CopyState } from '../db/schema'
import { recordAct } from '../acts/record'
import { visibleTo, type Copy } from '../access/copy-access'
import { may, type Asker } from '../access/roles'
import { claimsOf, rulingRow } from './copy-ruling'
import { sentenceFor } from '../access/others-clauses'
import { keepRuling } from './kept-rulings'
import { settleRelease } from './releases'
import { endJobsOf } from '../jobs/store'
import { policyInForce } from '../policy/in-force'
import { invalid, notAllowed, notFound, somebodyFaster, type Problem } from '../platform/problem'

/** What an act did: its id takes it back. */
export interface Moved {
  actId: number | null
  changed: number
  copies: { id: number, version: number }[]
  /** Copies that a release could not deliver, since another's stop stands. */
  elsewhere?: Elsewhere[]
}

export interface Elsewhere {
  id: number
  lane: Copy['lane']
  quarantine: string | null
  why: string
}

type Versions = Record<string, number> | undefined

/** Where copies are sent, and how. */
export interface Move {
  lane: KeptLane
  /** Which quarantine; the general one unless said. */
  quarantine?: string | null
  /** Of each copy as the asker saw it; one that was changed since stops the whole act. */
  versions?: Versions
  /** A release also goes by the reader's own places, instead of straight to the inbox. */
  ownPlaces?: boolean
}

/**
 * Sends copies to a lane. A move is an act, not a ruling; a move to the inbox out of a lane that stops implies that
 * the copy is wanted. Out of a quarantine to its reader, inbox or slow lane, is a release: it settles again, and another's
 * stop stands.
 */
export async function moveCopies(
  asker: Asker,
  ids: readonly number[],
  { lane, quarantine = null, versions, ownPlaces = false }: Move,
): Promise<Moved> {
  const to = await quarantineFor(lane, quarantine)
  return db().transaction(async (tx) => {
    const rows = await lockCopies(tx, asker, ids, versions)
    for (const copy of rows) mayMove(asker, copy, lane)
    const moving = rows.filter(c => !isThere(c, lane, to))
    if (!moving.length) return { actId: null, changed: 0, copies: rows.map(c => ({ id: c.id, version: c.version })) }
    const releases = !isKeptAway(lane) && moving.some(c => c.lane === 'quarantine')
    const actId = await recordAct(tx, {
      personId: asker.id,
      kind: releases ? 'released' : 'moved',
      detail: { lane, quarantine: to, count: moving.length, ...(ownPlaces ? { ownPlaces } : {}) },
    })
    const elsewhere = await moveRows(tx, asker, moving, { actId, lane, to, ownPlaces })
    return { ...(await movedTo(tx, actId, moving)), ...(releases ? { elsewhere } : {}) }
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

/** Where copies go, as part of which act. */
export interface Moving {
  actId: number
  lane: KeptLane
  /** The quarantine, where that is the lane. */
  to: string | null
  ownPlaces: boolean
}

/** Moves locked copies, as part of an act that is on record. @returns those that a release could not deliver */
export async function moveRows(tx: Tx, asker: Asker, rows: readonly Copy[], { actId, lane, to, ownPlaces }: Moving): Promise<Elsewhere[]> {
  const releasing = isKeptAway(lane) ? [] : rows.filter(c => c.lane === 'quarantine')
  const plain = rows.filter(c => !releasing.includes(c))
  const now = new Date()
  const after: CopyState = { lane, quarantineId: to, folder: null, laneSince: now.toISOString(), movedBy: asker.name }
  if (plain.length) {
    await tx.insert(actItems).values(plain.map(c => ({ actId, copyId: c.id, before: stateOf(c), after })))
    await tx
      .update(copies)
      .set({ ...after, laneSince: now, version: sql`${copies.version} + 1` })
      .where(isOneOf(plain))
  }
  const elsewhere = releasing.length ? await releaseRows(tx, asker, releasing, { actId, lane, ownPlaces, now }) : []
  await implyWanted(tx, asker, actId, isDelivered(lane) ? rows : [])
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

async function implyWanted(tx: Tx, asker: Asker, actId: number, moved: readonly Copy[]): Promise<void> {
  const freed = moved.filter(c => isKeptAway(c.lane))
  if (freed.length)
    await tx
      .insert(judgements)
      .values(freed.map(c => ({ copyId: c.id, personId: asker.id, value: 'wanted' as const, strength: 'implied' as const, actId })))
  await refreshJudgements(tx, idsOf(freed))
}

/** Says of copies that they are wanted or unwanted; null takes back what was said. What a move implies stays. */
export async function judgeCopies(
  asker: Asker,
  ids: readonly number[],
  value: 'wanted' | 'unwanted' | null,
  versions: Versions,
): Promise<Moved> {
  return db().transaction(async (tx) => {
    const all = await lockCopies(tx, asker, ids, versions)
    const rows = await notSaidYet(tx, all, value)
    // The same once more is no act.
    if (!rows.length) return { actId: null, changed: 0, copies: all.map(c => ({ id: c.id, version: c.version })) }
    const actId = await recordAct(tx, { personId: asker.id, kind: 'judged', detail: { value, count: rows.length } })
    await judgeRows(tx, asker, rows, { actId, value })
    return movedTo(tx, actId, rows)
  })
}

/** Those of which something else, or nothing, was said last. */
export async function notSaidYet(tx: Tx, rows: readonly Copy[], value: 'wanted' | 'unwanted' | null): Promise<Copy[]> {
  const said = await saidOf(
    tx,
    rows.map(c => c.id),
  )
  return rows.filter(c => (said.get(c.id) ?? null) !== value)
}

/** Judges locked copies, as part of an act that is on record. */
export async function judgeRows(
  tx: Tx,
  asker: Asker,
  rows: readonly Copy[],
  { actId, value }: { actId: number, value: 'wanted' | 'unwanted' | null },
): Promise<void> {
  if (!rows.length) return
  await tx.insert(actItems).values(rows.map(c => ({ actId, copyId: c.id })))
  await tx
    .update(judgements)
    .set({ withdrawnBy: actId })
    .where(
      and(
        inArray(
          judgements.copyId,
          rows.map(c => c.id),
        ),
        eq(judgements.strength, 'said'),
        isNull(judgements.withdrawnBy),
      ),
    )
  if (value)
    await tx.insert(judgements).values(rows.map(c => ({ copyId: c.id, personId: asker.id, value, strength: 'said' as const, actId })))
  await tx
    .update(copies)
    .set({ version: sql`${copies.version} + 1` })
    .where(isOneOf(rows))
  await refreshJudgements(tx, idsOf(rows))
}

/** What was last said of copies, as far as it stands. */
async function saidOf(tx: Tx, ids: readonly number[]): Promise<Map<number, 'wanted' | 'unwanted'>> {
  const standing = await tx
    .select()
    .from(judgements)
    .where(and(inArray(judgements.copyId, [...ids]), eq(judgements.strength, 'said'), isNull(judgements.withdrawnBy)))
    .orderBy(judgements.id)
  return new Map(standing.map(j => [j.copyId, j.value]))
}

/**
 * Takes a move, a release or a judgement back, however many copies it was about: lanes and judgements as they were before it,
 * all or none. Where its job still goes on, that ends first. Refused if a copy was moved again since.
 */
export async function takeBackMoves(asker: Asker, { id: actId, kind }: { id: number, kind: string }): Promise<Moved> {
  return longDb().transaction(async (tx) => {
    // First, since a step of it writes to the act while it holds the job.
    await endJobsOf(tx, actId)
    // Of two who take it back at the same time the second waits here, and is told.
    await tx.select({ id: acts.id }).from(acts).where(eq(acts.id, actId)).for('update')
    const [undone] = await tx.select({ id: acts.id }).from(acts).where(eq(acts.undoes, actId))
    if (undone) throw somebodyFaster('This act has been taken back already; it')
    const ofAct = sql`select ${actItems.copyId} from ${actItems} where ${actItems.actId} = ${actId}`
    const [{ n } = { n: 0 }] = await tx.select({ n: sql<number>`count(*)::int` }).from(actItems).where(eq(actItems.actId, actId))
    await tx.execute(sql`select id from ${copies} where id in (${ofAct}) order by id for update`)
    await mustBeAsLeft(tx, actId)
    const undoId = await recordAct(tx, { personId: asker.id, kind: 'taken back', detail: { act: actId, kind, count: n }, undoes: actId })
    await tx.execute(sql`
      insert into act_items (act_id, copy_id, before, after) select ${undoId}::bigint, copy_id, after, before from act_items where act_id = ${actId}`)
    await tx.execute(sql`
      update copies c set
        version = c.version + 1,
        lane = coalesce(b ->> 'lane', c.lane),
        quarantine_id = case when b ? 'lane' then b ->> 'quarantineId' else c.quarantine_id end,
        folder = case when b ? 'lane' then b ->> 'folder' else c.folder end,
        lane_since = coalesce((b ->> 'laneSince')::timestamptz, c.lane_since),
        moved_by = case when b ? 'lane' then b ->> 'movedBy' else c.moved_by end,
        ruling_id = case when b ? 'rulingId' then (b ->> 'rulingId')::bigint else c.ruling_id end,
        tags = case when b ? 'tags' then array(select jsonb_array_elements_text(b -> 'tags')) else c.tags end,
        important = coalesce((b ->> 'important')::boolean, c.important),
        subject = coalesce(b ->> 'subject', c.subject),
        decided = coalesce(b ->> 'decided', c.decided),
        decided_owner = case when b ? 'decidedOwner' then b ->> 'decidedOwner' else c.decided_owner end
      from (select copy_id, case when jsonb_typeof(before) = 'object' and jsonb_typeof(after) = 'object' then before else '{}'::jsonb end as b
        from act_items where act_id = ${actId}) i
      where i.copy_id = c.id`)
    await tx
      .update(judgements)
      .set({ withdrawnBy: undoId })
      .where(and(eq(judgements.actId, actId), isNull(judgements.withdrawnBy)))
    // What the act had withdrawn stands again, unless the act that said it has been taken back itself meanwhile.
    const stillSaid = notExists(tx.select({ id: acts.id }).from(acts).where(eq(acts.undoes, judgements.actId)))
    await tx
      .update(judgements)
      .set({ withdrawnBy: null })
      .where(and(eq(judgements.withdrawnBy, actId), stillSaid))
    await refreshJudgements(tx, ofAct)
    const after = await tx
      .select({ id: copies.id, version: copies.version })
      .from(copies)
      .where(sql`${copies.id} in (${ofAct})`)
      .orderBy(copies.id)
      .limit(MOST_TOLD)
    return { actId: undoId, changed: n, copies: after }
  })
}

/** Of so many copies an answer tells the version; whoever moved more reads them anew. */
const MOST_TOLD = 2000

// Versions do not tell: a judgement counts them up, and stands in nobody's way.
async function mustBeAsLeft(tx: Tx, actId: number): Promise<void> {
  const { rows } = await tx.execute(sql`
    select c.subject from copies c join act_items i on i.copy_id = c.id
    where i.act_id = ${actId} and jsonb_typeof(i.before) = 'object' and jsonb_typeof(i.after) = 'object'
      and (c.lane, c.quarantine_id, c.folder, c.lane_since) is distinct from
        (i.after ->> 'lane', i.after ->> 'quarantineId', i.after ->> 'folder', (i.after ->> 'laneSince')::timestamptz)
    limit 1`)
  if (rows.length) throw somebodyFaster('A copy of this act')
}

async function knownQuarantine(id: string): Promise<void> {
  const { policy } = await policyInForce()
  if (!policy.quarantines.some(q => q.id === id))
    throw invalid(`There is no quarantine “${id}”.`, { quarantine: 'Choose one that exists.' })
}

async function lockCopies(tx: Tx, asker: Asker, ids: readonly number[], versions: Versions): Promise<Copy[]> {
  const wanted = [...new Set(ids)]
  const rows = await tx
    .select()
    .from(copies)
    .where(and(inArray(copies.id, wanted), visibleTo(asker)))
    .orderBy(copies.id)
    .for('update')
  if (rows.length !== wanted.length) throw notFound(wanted.length === 1 ? 'message of that number' : 'message behind some of these numbers')
  for (const copy of rows)
    if (versions?.[copy.id] !== undefined && versions[copy.id] !== copy.version) throw somebodyFaster(`“${copy.subject || 'This message'}”`)
  return rows
}

function mayMove(asker: Asker, copy: Copy, lane: KeptLane): void {
  if (!isKept(copy))
    throw invalid(`“${copy.subject}” was ${copy.lane}: there is nothing here that could be moved.`)
  if ((copy.lane === 'quarantine' || lane === 'quarantine') && !may(asker, 'hold and release')) throw notAHolder()
}

/** Whether a copy lies here, and can be sent anywhere. */
export function isKept({ lane }: Pick<Copy, 'lane'>): boolean {
  return lane !== 'refused' && lane !== 'dropped' && lane !== 'sent'
}

export function notAHolder(): Problem {
  return notAllowed('Only reviewers and administrators send mail into a quarantine or release it from there.')
}

function stateOf(copy: Copy): CopyState {
  return {
    lane: copy.lane,
    quarantineId: copy.quarantineId,
    folder: copy.folder,
    laneSince: copy.laneSince.toISOString(),
    movedBy: copy.movedBy,
    rulingId: copy.rulingId,
    tags: copy.tags,
    important: copy.important,
    subject: copy.subject,
    decided: copy.decided,
    decidedOwner: copy.decidedOwner,
  }
}

/** What was said outweighs what was implied; within each the latest that stands. @param which ids of copies */
async function refreshJudgements(tx: Tx, which: SQL): Promise<void> {
  await tx.execute(sql`
    update copies set judgement = j.value, judgement_strength = j.strength
    from (select c.id, s.value, s.strength from copies c left join lateral (
        select value, strength from judgements where copy_id = c.id and withdrawn_by is null
        order by (strength = 'said') desc, id desc limit 1) s on true
      where c.id in (${which})) j
    where copies.id = j.id`)
}

function idsOf(rows: readonly Pick<Copy, 'id'>[]): SQL {
  return sql`select unnest(${sql.param(rows.map(c => c.id))}::bigint[])`
}

function isOneOf(rows: readonly Pick<Copy, 'id'>[]): SQL {
  return inArray(
    copies.id,
    rows.map(c => c.id),
  )
}

async function movedTo(tx: Tx, actId: number, rows: readonly Copy[]): Promise<Moved> {
  const after = await tx
    .select({ id: copies.id, version: copies.version })
    .from(copies)
    .where(isOneOf(rows))
    .orderBy(copies.id)
  return { actId, changed: rows.length, copies: after }
}
