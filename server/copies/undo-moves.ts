import { and, eq, isNull, notExists, sql } from 'drizzle-orm'
import { recordAct } from '../audit/record'
import { restorableBy } from '../access/copy-access'
import type { Asker } from '../access/roles'
import { longDb, type Db, type Tx } from '../db/client'
import { actItems, acts, copies, judgements } from '../db/schema'
import { endJobsOf } from '../jobs/store'
import { notAllowed, somebodyFaster } from '../platform/problem'
import type { Moved } from './locked-copies'
import { refreshJudgements } from './judgements'
import { reopenRequestsOf } from '../requests/request-answers'

/**
 * Takes a move, a release or a judgement back, however many copies it was about: lanes and judgements as they were before it,
 * all or none. Where its job still goes on, that ends first. Refused if a copy was moved again since.
 */
export async function takeBackMoves(asker: Asker, act: MovingAct): Promise<Moved> {
  const { id: actId, kind } = act
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
    if ((await notRestorable(tx, asker, [act])).size) throw notAllowed(NOT_RESTORABLE)
    await mustBeAsLeft(tx, actId)
    const undoId = await recordAct(tx, { personId: asker.id, kind: 'taken back', detail: { act: actId, kind, count: n }, undoes: actId })
    await restoreCopies(tx, actId, undoId)
    const after = await tx
      .select({ id: copies.id, version: copies.version })
      .from(copies)
      .where(sql`${copies.id} in (${ofAct})`)
      .orderBy(copies.id)
      .limit(MOST_TOLD)
    return { actId: undoId, changed: n, copies: after }
  })
}

const NOT_RESTORABLE = 'You cannot undo this: some of its messages you no longer see, or may not move back. Ask an administrator.'

/** An act that moved or marked messages. */
export interface MovingAct {
  id: number
  kind: string
  personId: string | null
}

/** Of acts those that the asker may not undo: a message of theirs is not theirs to see or to move back today. */
export async function notRestorable(at: Db | Tx, asker: Asker, moving: readonly MovingAct[]): Promise<Set<number>> {
  const out = new Set<number>()
  for (const released of [true, false]) {
    const ids = moving.filter(a => (a.kind === 'released' && a.personId === asker.id) === released).map(a => a.id)
    const may = restorableBy(asker, sql`i.before`, released)
    if (!ids.length || !may) continue
    const { rows } = await at.execute<{ act_id: string }>(sql`
      select distinct i.act_id from act_items i join ${copies} on ${copies.id} = i.copy_id
      where i.act_id = any(${sql.param(ids)}::bigint[]) and (${may}) is not true`)
    for (const row of rows) out.add(Number(row.act_id))
  }
  return out
}

/**
 * Brings back the copies that a change of the policy moved, as part of the act that takes the change back. What somebody put
 * elsewhere since stays there, and so does what the asker may not move back. @returns how many came back
 */
export async function bringBack(tx: Tx, asker: Asker, actId: number, undoId: number): Promise<number> {
  const may = restorableBy(asker, sql`i.before`, false)
  const those = may
    ? sql`and c.id in (select ${copies.id} from ${copies} join act_items i on i.copy_id = ${copies.id}
        where i.act_id = ${actId} and (${may}) is true)`
    : sql``
  const { rows } = await tx.execute<{ copy_id: string }>(sql`
    select i.copy_id from act_items i join copies c on c.id = i.copy_id
    where i.act_id = ${actId} and not (${IS_ELSEWHERE}) ${those} order by c.id for update of c`)
  const ids = rows.map(r => Number(r.copy_id))
  if (ids.length) await restoreCopies(tx, actId, undoId, ids)
  return ids.length
}

// Copies as they were before an act, and what was judged by it. @param only of these
async function restoreCopies(tx: Tx, actId: number, undoId: number, only?: readonly number[]): Promise<void> {
  const those = only ? sql`and copy_id = any(${sql.param([...only])}::bigint[])` : sql``
  await tx.execute(sql`
    insert into act_items (act_id, copy_id, before, after)
    select ${undoId}::bigint, copy_id, after, before from act_items where act_id = ${actId} ${those}`)
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
      from act_items where act_id = ${actId} ${those}) i
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
  await refreshJudgements(tx, sql`select copy_id from act_items where act_id = ${actId}`)
  await reopenRequestsOf(tx, actId)
}

/** Of so many copies an answer tells the version; whoever moved more reads them anew. */
const MOST_TOLD = 2000

// Copy c lies otherwise than item i of an act left it.
const IS_ELSEWHERE = sql.raw(`jsonb_typeof(i.before) = 'object' and jsonb_typeof(i.after) = 'object'
      and (c.lane, c.quarantine_id, c.folder, c.lane_since) is distinct from
        (i.after ->> 'lane', i.after ->> 'quarantineId', i.after ->> 'folder', (i.after ->> 'laneSince')::timestamptz)`)

// Versions do not tell: a judgement counts them up, and stands in nobody's way.
async function mustBeAsLeft(tx: Tx, actId: number): Promise<void> {
  const { rows } = await tx.execute(sql`
    select c.subject from copies c join act_items i on i.copy_id = c.id
    where i.act_id = ${actId} and ${IS_ELSEWHERE} limit 1`)
  if (rows.length) throw somebodyFaster('A copy of this act')
}
