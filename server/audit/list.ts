import { and, desc, eq, inArray, lt, sql } from 'drizzle-orm'
import { may, type Asker } from '../access/roles'
import { db } from '../db/client'
import { acts, people } from '../db/schema'
import { ACT_KINDS, actWords, undoableBy, versionIn } from './kinds'

/** One act on record. */
export interface ActLine {
  id: number
  at: string
  /** Name of who did it; null for the product itself. */
  by: string | null
  kind: string
  /** What was done, in a sentence. */
  words: string
  /** The act that took it back, or null. */
  takenBackBy: number | null
  mayTakeBack: boolean
  /** The version of the policy that it made, or null. */
  version: number | null
}

/** Which acts are asked for. */
export interface ActQuery {
  before?: number
  limit: number
  /** Only one's own. */
  mine?: boolean
  /** Only those that can be taken back, and have not been. */
  undoable?: boolean
}

const UNDOABLE = Object.entries(ACT_KINDS).flatMap(([kind, { undo }]) => (undo ? [kind] : []))

/** What somebody did, the newest first; for who may take back others' acts what everybody did. `next` is for the page after this one. */
export async function listActs(
  asker: Asker,
  { before, limit, mine = false, undoable = false }: ActQuery,
): Promise<{ items: ActLine[], next: number | null }> {
  const all = !mine && may(asker, 'take back others’ acts')
  const rows = await db()
    .select({
      act: acts,
      by: people.name,
      takenBackBy: sql<number | null>`(select u.id from acts u where u.undoes = ${acts.id})`,
    })
    .from(acts)
    .leftJoin(people, eq(people.id, acts.personId))
    .where(
      and(
        all ? undefined : eq(acts.personId, asker.id),
        before === undefined ? undefined : lt(acts.id, before),
        undoable ? and(inArray(acts.kind, UNDOABLE), sql`not exists (select 1 from acts u where u.undoes = ${acts.id})`) : undefined,
      ),
    )
    .orderBy(desc(acts.id))
    .limit(limit + 1)
  const shown = rows.slice(0, limit)
  const undoableToday = await undoableBy(asker, shown.map(r => r.act))
  return {
    items: shown.map(({ act, by, takenBackBy }) => ({
      id: act.id,
      at: act.at.toISOString(),
      by,
      kind: act.kind,
      words: actWords(asker, act),
      takenBackBy: takenBackBy === null ? null : Number(takenBackBy),
      mayTakeBack: takenBackBy === null && undoableToday.has(act.id),
      version: versionIn(act),
    })),
    next: rows.length > limit ? shown.at(-1)!.act.id : null,
  }
}
