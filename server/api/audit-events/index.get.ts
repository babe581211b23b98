import { Joi } from '#core'
import { defineRoute } from '../../access/route'
import { listEvents, type AuditEventQuery } from '../../audit/list'

const query = Joi.object<AuditEventQuery, true>({
  before: Joi.number().integer().positive().max(Number.MAX_SAFE_INTEGER),
  mine: Joi.boolean(),
  undoable: Joi.boolean(),
  limit: Joi.number().integer().min(1).max(200).default(50),
})

export default defineRoute({ query }, ({ actor, query: page }) => listEvents(actor, page))
