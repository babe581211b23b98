import { and, desc, eq, gte, inArray, isNull, lt, sql, type SQL } from 'drizzle-orm'
import type { Owner } from '#core'
import { seesClausesOf } from '../access/ownership'
import { can, type Actor } from '../access/roles'
import { db } from '../db/client'
import { auditEvents, lists, people, rules } from '../db/schema'
import { notFound } from '../platform/problem'
import { standing } from '../policy/store'
import { eventTargets } from './about'
import { versionsOf, type ClauseRef } from './about-clauses'
import { EVENT_KINDS, undoableBy, type EventGroup } from './kinds'
import { NO_TARGETS, type EventTargets } from './targets'
import { eventContext, eventWords, versionOf } from './words'

/** One event of the audit log. */
export interface AuditEventView {
  id: number
  at: string
  /** Name of who did it; null for the product itself. */
  by: string | null
  kind: string
  /** What was done, in a sentence. */
  words: string
  about: EventTargets
  /** The event that undid it, or null. */
  undoneBy: number | null
  canUndo: boolean
  /** The version of the policy that it made, or null. */
  version: number | null
}

/** Which events are asked for. */
export interface AuditEventQuery {
  /** Those before this event. */
  cursor?: number
  limit: number
  /** Only one's own. */
  mine?: boolean
  /** Only those that can be undone, and have not been. */
  undoable?: boolean
  /** Of one user, by id; `product` for the product itself. */
  person?: string
  kind?: EventGroup
  after?: Date
  before?: Date
  /** What changed a rule, or a list with its entries and assignments. */
  rule?: string
  list?: string
}

export const PRODUCT = 'product'
const ofKinds = (is: (kind: (typeof EVENT_KINDS)[keyof typeof EVENT_KINDS]) => boolean) =>
  Object.entries(EVENT_KINDS).flatMap(([name, kind]) => (is(kind) ? [name] : []))
const UNDOABLE = ofKinds(({ undo }) => undo !== null)
const isNotUndone = sql`not exists (select 1 from audit_events u where u.undoes = ${auditEvents.id})`

/**
 * What somebody did, the newest first; for who may undo others' acts what everybody did. Of a rule or list that somebody sees it is what
 * everybody did to it, and nothing of what they did besides. `next` is for the page after this one.
 */
export async function listEvents(actor: Actor, asked: AuditEventQuery): Promise<{ items: AuditEventView[], next: number | null }> {
  const clause = await clauseOf(actor, asked)
  const seesAll = can(actor, 'undo others’ changes')
  const rows = await db()
    .select({
      auditEvent: auditEvents,
      by: people.name,
      undoneBy: sql<number | null>`(select u.id from audit_events u where u.undoes = ${auditEvents.id})`,
    })
    .from(auditEvents)
    .leftJoin(people, eq(people.id, auditEvents.personId))
    .where(and(seesAll || clause ? undefined : eq(auditEvents.personId, actor.id), ...conditions(actor, asked, clause)))
    .orderBy(desc(auditEvents.id))
    .limit(asked.limit + 1)
  const shown = rows.slice(0, asked.limit)
  const events = shown.map(r => r.auditEvent)
  const undoable = await undoableBy(actor, events.filter(e => seesAll || e.personId === actor.id))
  const context = await eventContext(events)
  const targets = await eventTargets(actor, events, context, clause)
  return {
    items: shown.map(({ auditEvent, by, undoneBy }) => ({
      id: auditEvent.id,
      at: auditEvent.at.toISOString(),
      by,
      kind: auditEvent.kind,
      words: seesAll || auditEvent.personId === actor.id ? eventWords(actor, auditEvent, context) : `changed this ${clause!.kind}`,
      about: targets.get(auditEvent.id) ?? NO_TARGETS,
      undoneBy: undoneBy === null ? null : Number(undoneBy),
      canUndo: undoneBy === null && undoable.has(auditEvent.id),
      version: versionOf(auditEvent.detail),
    })),
    next: rows.length > asked.limit ? shown.at(-1)!.auditEvent.id : null,
  }
}

function conditions(actor: Actor, asked: AuditEventQuery, clause: ClauseRef | null): (SQL | undefined)[] {
  const { cursor, mine, undoable, person, kind, after, before } = asked
  return [
    mine ? eq(auditEvents.personId, actor.id) : undefined,
    person === undefined ? undefined : person === PRODUCT ? isNull(auditEvents.personId) : eq(auditEvents.personId, person),
    kind && inArray(auditEvents.kind, ofKinds(k => k.group === kind)),
    after && gte(auditEvents.at, after),
    before && lt(auditEvents.at, before),
    cursor === undefined ? undefined : lt(auditEvents.id, cursor),
    undoable ? and(inArray(auditEvents.kind, UNDOABLE), isNotUndone) : undefined,
    clause ? sql`(${auditEvents.detail} ->> 'version')::int in (${versionsOf(clause)})` : undefined,
  ]
}

/** The rule or list whose history is asked for. @throws 404 where it is not there, or not theirs to see */
async function clauseOf(actor: Actor, { rule, list }: AuditEventQuery): Promise<ClauseRef | null> {
  const id = rule ?? list
  if (id === undefined) return null
  const kind = rule === undefined ? 'list' : 'rule'
  const row = await standing(db(), kind === 'rule' ? rules : lists, id)
  if (!row || !seesClausesOf(actor, row.owner as Owner)) throw notFound(`This ${kind}`)
  return { kind, id }
}
