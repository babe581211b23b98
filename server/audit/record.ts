import { eq, sql } from 'drizzle-orm'
import { auditEvents } from '../db/schema'
import type { Db, Tx } from '../db/client'

/** What somebody did. */
export interface NewAuditEvent {
  /** Null for the product itself. */
  personId: string | null
  kind: string
  detail: Record<string, unknown>
  /** The act that it undoes. */
  undoes?: number
}

/** Puts on record what somebody did. */
export async function recordEvent(at: Db | Tx, { personId, kind, detail, undoes }: NewAuditEvent): Promise<number> {
  const [row] = await at
    .insert(auditEvents)
    .values({ personId, kind, detail, undoes: undoes ?? null })
    .returning({ id: auditEvents.id })
  return row!.id
}

/** Adds to how many copies an event was about, while its job goes on. */
export async function countMore(tx: Tx, eventId: number, n: number): Promise<void> {
  await tx
    .update(auditEvents)
    .set({ detail: sql`jsonb_set(${auditEvents.detail}, '{count}', to_jsonb((${auditEvents.detail} ->> 'count')::int + ${n}::int))` })
    .where(eq(auditEvents.id, eventId))
}
