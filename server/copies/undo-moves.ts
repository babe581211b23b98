import { and, eq, isNull, notExists, sql } from 'drizzle-orm'
import { recordEvent } from '../audit/record'
import { restorableBy } from '../access/copy-access'
import type { Actor } from '../access/roles'
import { longDb, type Db, type Tx } from '../db/client'
import { auditEventItems, auditEvents, copies, judgements } from '../db/schema'
import { endJobsOf } from '../jobs/store'
import { alreadyDone, conflict, notAllowed } from '../platform/problem'
import type { MovedCopies } from './locked-copies'
import { refreshJudgements } from './judgements'
import { reopenRequestsOf } from '../requests/request-answers'

/**
 * Takes a move, a release or a judgement back, however many copies it was about: lanes and judgements as they were before it,
 * all or none. Where its job still goes on, that ends first. Refused if a copy was moved again since.
 */
export async function undoMoves(actor: Actor, auditEvent: MovingEvent): Promise<MovedCopies> {
  const { id: eventId } = auditEvent
  return longDb().transaction(async (tx) => {
    // First, since a step of it writes to the event while it holds the job.
    await endJobsOf(tx, eventId)
    // Of two who undo it at the same time the second waits here, and is told.
    await tx.select({ id: auditEvents.id }).from(auditEvents).where(eq(auditEvents.id, eventId)).for('update')
    const [undone] = await tx.select({ id: auditEvents.id }).from(auditEvents).where(eq(auditEvents.undoes, eventId))
    if (undone) throw alreadyDone('This action has already been undone.')
    const ofEvent = sql`select ${auditEventItems.copyId} from ${auditEventItems} where ${auditEventItems.eventId} = ${eventId}`
    const [{ n } = { n: 0 }] = await tx
      .select({ n: sql<number>`count(*)::int` })
      .from(auditEventItems)
      .where(eq(auditEventItems.eventId, eventId))
    await tx.execute(sql`select id from ${copies} where id in (${ofEvent}) order by id for update`)
    if ((await notRestorable(tx, actor, [auditEvent])).size) throw notAllowed(NOT_RESTORABLE)
    await mustBeAsLeft(tx, eventId)
    const undoId = await recordEvent(tx, { personId: actor.id, kind: 'undone', detail: { count: n }, undoes: eventId })
    await restoreCopies(tx, eventId, undoId)
    const after = await tx
      .select({ id: copies.id, version: copies.version })
      .from(copies)
      .where(sql`${copies.id} in (${ofEvent})`)
      .orderBy(copies.id)
      .limit(MAX_SHOWN)
    return { eventId: undoId, changed: n, copies: after }
  })
}

const NOT_RESTORABLE = 'You cannot undo this: you no longer see some of its messages, or cannot move them back. Ask an administrator.'

/** An act that moved or marked messages. */
export interface MovingEvent {
  id: number
  kind: string
  personId: string | null
}

/** Of acts those that the actor may not undo: a message of theirs is not theirs to see or to move back today. */
export async function notRestorable(at: Db | Tx, actor: Actor, moving: readonly MovingEvent[]): Promise<Set<number>> {
  const out = new Set<number>()
  for (const released of [true, false]) {
    const ids = moving.filter(a => (a.kind === 'released' && a.personId === actor.id) === released).map(a => a.id)
    const can = restorableBy(actor, sql`i.before`, released)
    if (!ids.length || !can) continue
    const { rows } = await at.execute<{ event_id: string }>(sql`
      select distinct i.event_id from audit_event_items i join ${copies} on ${copies.id} = i.copy_id
      where i.event_id = any(${sql.param(ids)}::bigint[]) and (${can}) is not true`)
    for (const row of rows) out.add(Number(row.event_id))
  }
  return out
}

/**
 * Brings back the copies that a change of the policy moved, as part of the event that undoes the change. What somebody put
 * elsewhere since stays there, and so does what the actor may not move back. @returns how many came back
 */
export async function bringBack(tx: Tx, actor: Actor, eventId: number, undoId: number): Promise<number> {
  const can = restorableBy(actor, sql`i.before`, false)
  const those = can
    ? sql`and c.id in (select ${copies.id} from ${copies} join audit_event_items i on i.copy_id = ${copies.id}
        where i.event_id = ${eventId} and (${can}) is true)`
    : sql``
  const { rows } = await tx.execute<{ copy_id: string }>(sql`
    select i.copy_id from audit_event_items i join copies c on c.id = i.copy_id
    where i.event_id = ${eventId} and not (${HAS_MOVED}) ${those} order by c.id for update of c`)
  const ids = rows.map(r => Number(r.copy_id))
  if (ids.length) await restoreCopies(tx, eventId, undoId, ids)
  return ids.length
}

// Copies as they were before an event, and what was marked by it. @param only of these
async function restoreCopies(tx: Tx, eventId: number, undoId: number, only?: readonly number[]): Promise<void> {
  const those = only ? sql`and copy_id = any(${sql.param([...only])}::bigint[])` : sql``
  await tx.execute(sql`
    insert into audit_event_items (event_id, copy_id, before, after)
    select ${undoId}::bigint, copy_id, after, before from audit_event_items where event_id = ${eventId} ${those}`)
  await tx.execute(sql`
    update copies c set
      version = c.version + 1,
      lane = coalesce(b ->> 'lane', c.lane),
      quarantine_id = case when b ? 'lane' then b ->> 'quarantineId' else c.quarantine_id end,
      folder = case when b ? 'lane' then b ->> 'folder' else c.folder end,
      filed = coalesce((b ->> 'filed')::boolean, c.filed),
      lane_since = coalesce((b ->> 'laneSince')::timestamptz, c.lane_since),
      moved_by = case when b ? 'lane' then b ->> 'movedBy' else c.moved_by end,
      decision_id = case when b ? 'decisionId' then (b ->> 'decisionId')::bigint else c.decision_id end,
      tags = case when b ? 'tags' then array(select jsonb_array_elements_text(b -> 'tags')) else c.tags end,
      important = coalesce((b ->> 'important')::boolean, c.important),
      subject = coalesce(b ->> 'subject', c.subject),
      reason = coalesce(b -> 'reason', c.reason)
    from (select copy_id, case when jsonb_typeof(before) = 'object' and jsonb_typeof(after) = 'object' then before else '{}'::jsonb end as b
      from audit_event_items where event_id = ${eventId} ${those}) i
    where i.copy_id = c.id`)
  await tx
    .update(judgements)
    .set({ withdrawalEventId: undoId })
    .where(and(eq(judgements.eventId, eventId), isNull(judgements.withdrawalEventId)))
  // What the event had withdrawn stands again, unless the event that said it has been undone itself meanwhile.
  const stillSaid = notExists(tx.select({ id: auditEvents.id }).from(auditEvents).where(eq(auditEvents.undoes, judgements.eventId)))
  await tx
    .update(judgements)
    .set({ withdrawalEventId: null })
    .where(and(eq(judgements.withdrawalEventId, eventId), stillSaid))
  await refreshJudgements(tx, sql`select copy_id from audit_event_items where event_id = ${eventId}`)
  await reopenRequestsOf(tx, eventId)
}

/** Of so many copies an answer tells the version; whoever moved more reads them anew. */
const MAX_SHOWN = 2000

// Copy c lies otherwise than item i of an event left it.
const HAS_MOVED = sql.raw(`jsonb_typeof(i.before) = 'object' and jsonb_typeof(i.after) = 'object'
      and (c.lane, c.quarantine_id, c.folder, c.lane_since) is distinct from
        (i.after ->> 'lane', i.after ->> 'quarantineId', i.after ->> 'folder', (i.after ->> 'laneSince')::timestamptz)`)

// Versions do not tell: a judgement counts them up, and stands in nobody's way.
async function mustBeAsLeft(tx: Tx, eventId: number): Promise<void> {
  const { rows } = await tx.execute(sql`
    select c.subject from copies c join audit_event_items i on i.copy_id = c.id
    where i.event_id = ${eventId} and ${HAS_MOVED} limit 1`)
  if (rows.length) throw conflict('One of these messages')
}
