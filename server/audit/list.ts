import { and, desc, eq, inArray, lt, sql } from 'drizzle-orm'
import { can, type Actor } from '../access/roles'
import { db } from '../db/client'
import { auditEvents, people } from '../db/schema'
import { EVENT_KINDS, undoableBy } from './kinds'
import { eventContext, eventWords, versionOf } from './words'

/** One act on record. */
export interface AuditEventView {
  id: number
  at: string
  /** Name of who did it; null for the product itself. */
  by: string | null
  kind: string
  /** What was done, in a sentence. */
  words: string
  /** The act that took it back, or null. */
  undoneBy: number | null
  canUndo: boolean
  /** The version of the policy that it made, or null. */
  version: number | null
}

/** Which events are asked for. */
export interface AuditEventQuery {
  before?: number
  limit: number
  /** Only one's own. */
  mine?: boolean
  /** Only those that can be undone, and have not been. */
  undoable?: boolean
}

const UNDOABLE = Object.entries(EVENT_KINDS).flatMap(([kind, { undo }]) => (undo ? [kind] : []))

/** What somebody did, the newest first; for who may undo others' acts what everybody did. `next` is for the page after this one. */
export async function listEvents(
  actor: Actor,
  { before, limit, mine = false, undoable = false }: AuditEventQuery,
): Promise<{ items: AuditEventView[], next: number | null }> {
  const all = !mine && can(actor, 'undo others’ changes')
  const rows = await db()
    .select({
      auditEvent: auditEvents,
      by: people.name,
      undoneBy: sql<number | null>`(select u.id from audit_events u where u.undoes = ${auditEvents.id})`,
    })
    .from(auditEvents)
    .leftJoin(people, eq(people.id, auditEvents.personId))
    .where(
      and(
        all ? undefined : eq(auditEvents.personId, actor.id),
        before === undefined ? undefined : lt(auditEvents.id, before),
        undoable
          ? and(inArray(auditEvents.kind, UNDOABLE), sql`not exists (select 1 from audit_events u where u.undoes = ${auditEvents.id})`)
          : undefined,
      ),
    )
    .orderBy(desc(auditEvents.id))
    .limit(limit + 1)
  const shown = rows.slice(0, limit)
  const events = shown.map(r => r.auditEvent)
  const undoableToday = await undoableBy(actor, events)
  const context = await eventContext(events)
  return {
    items: shown.map(({ auditEvent, by, undoneBy }) => ({
      id: auditEvent.id,
      at: auditEvent.at.toISOString(),
      by,
      kind: auditEvent.kind,
      words: eventWords(actor, auditEvent, context),
      undoneBy: undoneBy === null ? null : Number(undoneBy),
      canUndo: undoneBy === null && undoableToday.has(auditEvent.id),
      version: versionOf(auditEvent.detail),
    })),
    next: rows.length > limit ? shown.at(-1)!.auditEvent.id : null,
  }
}
