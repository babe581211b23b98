import { and, eq, inArray, isNull, notExists, sql } from 'drizzle-orm'
import { isDelivered, isKeptAway, type KeptLane } from '#core'
import { db, type Tx } from '../db/client'
import { actItems, acts, copies, judgements, type CopyState } from '../db/schema'
import { recordAct } from '../acts/record'
import { visibleTo, type Copy } from '../access/copy-access'
import { may, type Asker } from '../access/roles'
import { claimsOf, rulingRow } from './copy-ruling'
import { sentenceFor } from '../access/others-clauses'
import { keepRuling } from './kept-rulings'
import { settleRelease } from './releases'
import { policyInForce } from '../policy/in-force'
import { invalid, notAllowed, notFound, somebodyFaster } from '../platform/problem'

/** What an act did: its id takes it back. */
export interface Moved {
  actId: number | null
  changed: number
  copies: { id: number, version: number }[]
  /** Copies that a release could not deliver, since another's stop stands. */
  elsewhere?: { id: number, lane: Copy['lane'], quarantine: string | null, why: string }[]
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
  if (lane === 'quarantine') await knownQuarantine(quarantine ?? 'general')
  const to = lane === 'quarantine' ? (quarantine ?? 'general') : null
  return db().transaction(async (tx) => {
    const rows = await lockCopies(tx, asker, ids, versions)
    for (const copy of rows) mayMove(asker, copy, lane)
    if (!isKeptAway(lane) && rows.some(c => c.lane === 'quarantine'))
      return release(tx, asker, rows, { lane, ownPlaces })
    const moving = rows.filter(c => c.lane !== lane || c.quarantineId !== to)
    if (!moving.length) return { actId: null, changed: 0, copies: rows.map(c => ({ id: c.id, version: c.version })) }
    const actId = await recordAct(tx, { personId: asker.id, kind: 'moved', detail: { lane, quarantine: to, count: moving.length } })
    const now = new Date()
    const after: CopyState = { lane, quarantineId: to, folder: null, laneSince: now.toISOString(), movedBy: asker.name }
    await tx.insert(actItems).values(moving.map(c => ({ actId, copyId: c.id, before: stateOf(c), after })))
    await tx
      .update(copies)
      .set({ ...after, laneSince: now, version: sql`${copies.version} + 1` })
      .where(
        inArray(
          copies.id,
          moving.map(c => c.id),
        ),
      )
    await implyWanted(tx, asker, actId, isDelivered(lane) ? moving : [])
    return movedTo(tx, actId, moving)
  })
}

// Out of a quarantine a copy is settled again; what lies elsewhere among the chosen is moved as it is.
async function release(
  tx: Tx,
  asker: Asker,
  rows: readonly Copy[],
  { lane, ownPlaces }: { lane: 'inbox' | 'slow lane', ownPlaces: boolean },
): Promise<Moved> {
  const inForce = await policyInForce()
  const moving = rows.filter(c => c.lane !== lane)
  const actId = await recordAct(tx, {
    personId: asker.id,
    kind: 'released',
    detail: { lane, count: moving.length, ...(ownPlaces ? { ownPlaces } : {}) },
  })
  const now = new Date()
  const elsewhere: NonNullable<Moved['elsewhere']> = []
  for (const copy of moving) {
    const settled = copy.lane === 'quarantine' ? await settleRelease(tx, copy, inForce, { now, ownPlaces }) : null
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
  await implyWanted(tx, asker, actId, moving)
  return { ...(await movedTo(tx, actId, moving)), elsewhere }
}

async function implyWanted(tx: Tx, asker: Asker, actId: number, moved: readonly Copy[]): Promise<void> {
  const freed = moved.filter(c => isKeptAway(c.lane))
  if (freed.length)
    await tx
      .insert(judgements)
      .values(freed.map(c => ({ copyId: c.id, personId: asker.id, value: 'wanted' as const, strength: 'implied' as const, actId })))
  await refreshJudgements(
    tx,
    freed.map(c => c.id),
  )
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
    const said = await saidOf(
      tx,
      all.map(c => c.id),
    )
    const rows = all.filter(c => (said.get(c.id) ?? null) !== value)
    // The same once more is no act.
    if (!rows.length) return { actId: null, changed: 0, copies: all.map(c => ({ id: c.id, version: c.version })) }
    const actId = await recordAct(tx, { personId: asker.id, kind: 'judged', detail: { value, count: rows.length } })
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
      .where(
        inArray(
          copies.id,
          rows.map(c => c.id),
        ),
      )
    await refreshJudgements(
      tx,
      rows.map(c => c.id),
    )
    return movedTo(tx, actId, rows)
  })
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

/** Takes a move, a release or a judgement back: lanes and judgements as they were before it. Refused if a copy was moved again since. */
export async function takeBackMoves(asker: Asker, { id: actId, kind }: { id: number, kind: string }): Promise<Moved> {
  return db().transaction(async (tx) => {
    // Of two who take it back at the same time the second waits here, and is told.
    await tx.select({ id: acts.id }).from(acts).where(eq(acts.id, actId)).for('update')
    const [undone] = await tx.select({ id: acts.id }).from(acts).where(eq(acts.undoes, actId))
    if (undone) throw somebodyFaster('This act has been taken back already; it')
    const items = await tx.select().from(actItems).where(eq(actItems.actId, actId))
    const ids = items.map(i => i.copyId)
    const rows = await tx.select().from(copies).where(inArray(copies.id, ids)).orderBy(copies.id).for('update')
    const undoId = await recordAct(tx, {
      personId: asker.id,
      kind: 'taken back',
      detail: { act: actId, kind, count: items.length },
      undoes: actId,
    })
    await tx.insert(actItems).values(items.map(i => ({ actId: undoId, copyId: i.copyId, before: i.after, after: i.before })))
    for (const item of items) {
      const copy = rows.find(c => c.id === item.copyId)
      if (!copy) continue
      if (item.before && item.after) {
        if (!sameState(stateOf(copy), item.after)) throw somebodyFaster('A copy of this act')
        await tx
          .update(copies)
          .set({ ...item.before, laneSince: new Date(item.before.laneSince), version: copy.version + 1 })
          .where(eq(copies.id, copy.id))
      }
      else {
        await tx
          .update(copies)
          .set({ version: copy.version + 1 })
          .where(eq(copies.id, copy.id))
      }
    }
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
    await refreshJudgements(tx, ids)
    return movedTo(tx, undoId, rows)
  })
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
  if (copy.lane === 'refused' || copy.lane === 'dropped' || copy.lane === 'sent')
    throw invalid(`“${copy.subject}” was ${copy.lane}: there is nothing here that could be moved.`)
  if ((copy.lane === 'quarantine' || lane === 'quarantine') && !may(asker, 'hold and release'))
    throw notAllowed('Only reviewers and administrators send mail into a quarantine or release it from there.')
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

function sameState(a: CopyState, b: CopyState): boolean {
  return a.lane === b.lane && a.quarantineId === b.quarantineId && a.folder === b.folder && a.laneSince === b.laneSince
}

// What was said outweighs what was implied; within each the latest that stands.
async function refreshJudgements(tx: Tx, ids: readonly number[]): Promise<void> {
  if (!ids.length) return
  const standing = await tx
    .select()
    .from(judgements)
    .where(and(inArray(judgements.copyId, [...ids]), isNull(judgements.withdrawnBy)))
    .orderBy(judgements.id)
  for (const id of ids) {
    const own = standing.filter(j => j.copyId === id)
    const counts = own.findLast(j => j.strength === 'said') ?? own.at(-1)
    await tx
      .update(copies)
      .set({ judgement: counts?.value ?? null, judgementStrength: counts?.strength ?? null })
      .where(eq(copies.id, id))
  }
}

async function movedTo(tx: Tx, actId: number, rows: readonly Copy[]): Promise<Moved> {
  const after = await tx
    .select({ id: copies.id, version: copies.version })
    .from(copies)
    .where(
      inArray(
        copies.id,
        rows.map(c => c.id),
      ),
    )
    .orderBy(copies.id)
  return { actId, changed: rows.length, copies: after }
}
