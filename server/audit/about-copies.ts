import { and, sql } from 'drizzle-orm'
import { counted, quoted } from '#core/wording'
import { visibleTo } from '../access/copy-access'
import type { Actor } from '../access/roles'
import { isAnyOf } from '../db/asking'
import { db } from '../db/client'
import { copies, releaseRequests } from '../db/schema'
import type { AuditEvent } from './kinds'
import type { EventTargets } from './targets'

/** The messages that events were about, by event: one by its subject, several by their number. What somebody does not see is left out. */
export async function copyTargets(actor: Actor, events: readonly AuditEvent[]): Promise<Map<number, EventTargets>> {
  const touched = await copiesOf(events)
  const single = new Map<number, number>()
  const out = new Map<number, EventTargets>()
  for (const event of events) {
    const [first, second] = touched.get(event.id) ?? []
    if (first === undefined) continue
    if (second === undefined) single.set(event.id, first)
    else out.set(event.id, { targets: [{ name: messages(event), to: `/mail?eventId=${event.id}` }], more: 0 })
  }
  if (!single.size) return out
  const rows = await db()
    .select({ id: copies.id, subject: copies.subject, sender: copies.senderAddress })
    .from(copies)
    .where(and(isAnyOf(copies.id, [...new Set(single.values())]), visibleTo(actor)))
  const byId = new Map(rows.map(r => [r.id, r]))
  for (const [eventId, copyId] of single) {
    const copy = byId.get(copyId)
    if (!copy) continue
    const from = copy.sender ? ` from ${copy.sender}` : ''
    const name = `${copy.subject ? quoted(copy.subject) : 'Message without a subject'}${from}`
    out.set(eventId, { targets: [{ name, to: `/mail?eventId=${eventId}&open=${copyId}` }], more: 0 })
  }
  return out
}

const messages = ({ detail }: AuditEvent) => (typeof detail.count === 'number' ? counted(detail.count, 'message') : 'Messages')

/** The first two copies of each event: whether it is one is what has to be known. */
async function copiesOf(events: readonly AuditEvent[]): Promise<Map<number, number[]>> {
  const out = new Map<number, number[]>()
  if (!events.length) return out
  const ids = sql.param(events.map(e => e.id))
  const { rows } = await db().execute<{ event: string, copy: string }>(sql`
    select e.id as event, i.copy_id as copy from unnest(${ids}::bigint[]) e (id) cross join lateral (
      (select copy_id from audit_event_items where event_id = e.id order by copy_id limit 2)
      union all
      (select copy_id from release_requests where request_event_id = e.id order by copy_id limit 2)
    ) i`)
  for (const { event, copy } of rows) out.set(Number(event), [...(out.get(Number(event)) ?? []), Number(copy)])
  const answered = new Map(events.flatMap(e => (typeof e.detail.request === 'number' ? [[e.detail.request, e.id] as const] : [])))
  if (answered.size) {
    const requests = await db()
      .select({ id: releaseRequests.id, copyId: releaseRequests.copyId })
      .from(releaseRequests)
      .where(isAnyOf(releaseRequests.id, [...answered.keys()]))
    for (const { id, copyId } of requests) out.set(answered.get(id)!, out.get(answered.get(id)!) ?? [copyId])
  }
  return out
}
