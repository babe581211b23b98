import { Readable } from 'node:stream'
import { setResponseHeaders } from 'h3'
import { Joi } from '#core'
import { defineRoute } from '../../access/route'
import { eventsAsCsv } from '../../audit/as-csv'
import type { AuditEventQuery } from '../../audit/list'
import { EVENT_FILTERS } from '../../audit/query'

const query = Joi.object<Pick<AuditEventQuery, 'person' | 'kind' | 'after' | 'before'>, true>(EVENT_FILTERS)

export default defineRoute({ query }, ({ event, actor, query }) => {
  setResponseHeaders(event, {
    'content-type': 'text/csv; charset=utf-8; header=present',
    'content-disposition': 'attachment; filename="audit-log.csv"',
  })
  return Readable.from(eventsAsCsv(actor, query))
})
