import { acts } from '../db/schema'
import type { Db, Tx } from '../db/client'

/** Puts on record what somebody did. */
export async function recordAct(
  at: Db | Tx,
  personId: string | null,
  kind: string,
  detail: Record<string, unknown>,
  undoes: number | null = null,
): Promise<number> {
  const [row] = await at.insert(acts).values({ personId, kind, detail, undoes }).returning({ id: acts.id })
  return row!.id
}
