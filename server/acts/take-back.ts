import { eq } from 'drizzle-orm'
import { may, type Asker } from '../access/roles'
import { db } from '../db/client'
import { acts } from '../db/schema'
import { invalid, notFound, somebodyFaster } from '../platform/problem'
import { ACT_KINDS, type TakenBack } from './kinds'

/** Takes an act back: a move, a release, a judgement, or a change of the policy. */
export async function takeBack(asker: Asker, actId: number): Promise<TakenBack> {
  const [act] = await db().select().from(acts).where(eq(acts.id, actId))
  if (!act || (act.personId !== asker.id && !may(asker, 'take back others’ acts'))) throw notFound('act of yours with that number')
  const undo = ACT_KINDS[act.kind]?.undo
  if (!undo) throw invalid('Only a move, a release, a judgement or a change of lists and rules can be taken back.')
  const [undone] = await db().select({ id: acts.id }).from(acts).where(eq(acts.undoes, actId))
  if (undone) throw somebodyFaster('This act has been taken back already; it')
  return undo(asker, act)
}
