import { eq, sql } from 'drizzle-orm'
import { acts } from '../db/schema'
import type { Db, Tx } from '../db/client'

/** What somebody did. */
export interface NewAct {
  /** Null for the product itself. */
  personId: string | null
  kind: string
  detail: Record<string, unknown>
  /** The act that it takes back. */
  undoes?: number
}

/** Puts on record what somebody did. */
export async function recordAct(at: Db | Tx, { personId, kind, detail, undoes }: NewAct): Promise<number> {
  const [row] = await at
    .insert(acts)
    .values({ personId, kind, detail, undoes: undoes ?? null })
    .returning({ id: acts.id })
  return row!.id
}

/** Adds to how many copies an act was about, while its job goes on. */
export async function countMore(tx: Tx, actId: number, n: number): Promise<void> {
  await tx
    .update(acts)
    .set({ detail: sql`jsonb_set(${acts.detail}, '{count}', to_jsonb((${acts.detail} ->> 'count')::int + ${n}::int))` })
    .where(eq(acts.id, actId))
}
