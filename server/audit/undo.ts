import { eq } from 'drizzle-orm'
import type { Owner } from '#core'
import { seesClausesOf } from '../access/ownership'
import { can, type Actor } from '../access/roles'
import { db } from '../db/client'
import { auditEvents } from '../db/schema'
import { alreadyDone, invalid, notAllowed, notFound } from '../platform/problem'
import { eventKind, undoableBy, type UndoResult } from './kinds'

/** Undoes an event: a move, a release, a judgement, or a change of the policy. */
export async function undoEvent(actor: Actor, eventId: number): Promise<UndoResult> {
  const [auditEvent] = await db().select().from(auditEvents).where(eq(auditEvents.id, eventId))
  if (!auditEvent || (auditEvent.personId !== actor.id && !can(actor, 'undo others’ changes'))) throw notFound('This event')
  // What is somebody's own is as if it were not there.
  const { owner } = auditEvent.detail as { owner?: Owner }
  if (auditEvent.personId !== actor.id && owner && !seesClausesOf(actor, owner)) throw notFound('This event')
  const undo = eventKind(auditEvent.kind)?.undo
  if (!undo) throw invalid('This cannot be undone. Moves, releases, marks and changes of lists, rules and settings can be.')
  const [undone] = await db().select({ id: auditEvents.id }).from(auditEvents).where(eq(auditEvents.undoes, eventId))
  if (undone) throw alreadyDone('This action has already been undone.')
  if (!(await undoableBy(actor, [auditEvent])).has(auditEvent.id))
    throw notAllowed('You no longer have permission for what undoing this would do. Ask an administrator.')
  return undo(actor, auditEvent)
}
