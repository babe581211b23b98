import type { Actor } from '../access/roles'
import { csvRows } from '../platform/csv'
import { listEvents, type AuditEventQuery } from './list'

const COLUMNS = ['time', 'user', 'event', 'about', 'before', 'after', 'policy version', 'undone by'] as const
const PAGE = 200

/** All events that are asked for as CSV (RFC 4180), page by page: a row for each thing that one was about. */
export async function* eventsAsCsv(actor: Actor, asked: Omit<AuditEventQuery, 'cursor' | 'limit'>): AsyncGenerator<string> {
  yield csvRows([COLUMNS])
  for (let cursor: number | undefined, more = true; more;) {
    const { items, next } = await listEvents(actor, { ...asked, cursor, limit: PAGE })
    yield csvRows(items.flatMap(({ at, by, words, about, version, undoneBy }) => {
      const targets = about.targets.length ? about.targets : [{ name: '', before: '', after: '' }]
      return targets.map(t =>
        [at, by ?? 'Sober Gate', words, t.name, t.before ?? '', t.after ?? '', String(version ?? ''), String(undoneBy ?? '')])
    }))
    more = next !== null
    cursor = next ?? undefined
  }
}
