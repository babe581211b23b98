import { and, eq, isNull, sql, type SQL } from 'drizzle-orm'
import { isKeptAway } from '#core'
import { recordEvent } from '../audit/record'
import type { Copy } from '../access/copy-access'
import type { Actor } from '../access/roles'
import { isAnyOf } from '../db/asking'
import { db, type Tx } from '../db/client'
import { auditEventItems, copies, judgements } from '../db/schema'
import { someAtATime } from '../platform/slices'
import { idsOf, isOneOf, lockCopies, movedTo, type MovedCopies, type Versions } from './locked-copies'

/** Says of copies that they are wanted or unwanted; null undoes what was said. What a move implies stays. */
export async function markCopies(
  actor: Actor,
  ids: readonly number[],
  value: 'wanted' | 'unwanted' | null,
  versions: Versions,
): Promise<MovedCopies> {
  return db().transaction(async (tx) => {
    const all = await lockCopies(tx, actor, ids, versions)
    const rows = await notSaidYet(tx, all, value)
    // The same once more is no act.
    if (!rows.length) return { eventId: null, changed: 0, copies: all.map(c => ({ id: c.id, version: c.version })) }
    const eventId = await recordEvent(tx, { personId: actor.id, kind: 'marked', detail: { value, count: rows.length } })
    await markRows(tx, actor, rows, { eventId, value })
    return movedTo(tx, eventId, rows)
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

/** Marks locked copies, as part of an event that is on record. */
export async function markRows(
  tx: Tx,
  actor: Actor,
  rows: readonly Copy[],
  { eventId, value }: { eventId: number, value: 'wanted' | 'unwanted' | null },
): Promise<void> {
  if (!rows.length) return
  // What was moved by the same event has its item already.
  await someAtATime(rows, some => tx.insert(auditEventItems).values(some.map(c => ({ eventId, copyId: c.id }))).onConflictDoNothing())
  await tx
    .update(judgements)
    .set({ withdrawalEventId: eventId })
    .where(
      and(
        isAnyOf(judgements.copyId, rows.map(c => c.id)),
        eq(judgements.strength, 'said'),
        isNull(judgements.withdrawalEventId),
      ),
    )
  if (value)
    await someAtATime(rows, some =>
      tx.insert(judgements).values(some.map(c => ({ copyId: c.id, personId: actor.id, value, strength: 'said' as const, eventId }))))
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
    .where(and(isAnyOf(judgements.copyId, ids), eq(judgements.strength, 'said'), isNull(judgements.withdrawalEventId)))
    .orderBy(judgements.id)
  return new Map(standing.map(j => [j.copyId, j.value]))
}

/** Moved out of where they were kept away, copies are wanted: so much a move implies. */
export async function implyWanted(tx: Tx, actor: Actor, eventId: number, moved: readonly Copy[]): Promise<void> {
  const freed = moved.filter(c => isKeptAway(c.lane))
  if (freed.length)
    await tx
      .insert(judgements)
      .values(freed.map(c => ({ copyId: c.id, personId: actor.id, value: 'wanted' as const, strength: 'implied' as const, eventId })))
  await refreshJudgements(tx, idsOf(freed))
}

/** What was said outweighs what was implied; within each the latest that stands. @param which ids of copies */
export async function refreshJudgements(tx: Tx, which: SQL): Promise<void> {
  await tx.execute(sql`
    update copies set judgement = j.value, judgement_strength = j.strength
    from (select c.id, s.value, s.strength from copies c left join lateral (
        select value, strength from judgements where copy_id = c.id and withdrawal_event_id is null
        order by (strength = 'said') desc, id desc limit 1) s on true
      where c.id in (${which})) j
    where copies.id = j.id`)
}
