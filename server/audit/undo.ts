import { eq } from 'drizzle-orm'
import type { Owner } from '#core'
import { seesClausesOf } from '../access/ownership'
import { may, type Asker } from '../access/roles'
import { db } from '../db/client'
import { acts } from '../db/schema'
import { invalid, notAllowed, notFound, somebodyFaster } from '../platform/problem'
import { ACT_KINDS, undoableBy, type TakenBack } from './kinds'

/** Takes an act back: a move, a release, a judgement, or a change of the policy. */
export async function takeBack(asker: Asker, actId: number): Promise<TakenBack> {
  const [act] = await db().select().from(acts).where(eq(acts.id, actId))
  if (!act || (act.personId !== asker.id && !may(asker, 'take back others’ acts'))) throw notFound('act of yours with that number')
  // What is somebody's own is as if it were not there.
  const { owner } = act.detail as { owner?: Owner }
  if (act.personId !== asker.id && owner && !seesClausesOf(asker, owner)) throw notFound('act of yours with that number')
  const undo = ACT_KINDS[act.kind]?.undo
  if (!undo) throw invalid('Only a move, a release, a judgement or a change of lists and rules can be taken back.')
  const [undone] = await db().select({ id: acts.id }).from(acts).where(eq(acts.undoes, actId))
  if (undone) throw somebodyFaster('This act has been taken back already; it')
  if (!(await undoableBy(asker, [act])).has(act.id))
    throw notAllowed('You may not do today what undoing this would do. Ask an administrator.')
  return undo(asker, act)
}
