import { Joi } from '#core'
import { EVENT_GROUPS } from './kinds'
import type { AuditEventQuery } from './list'

const id = Joi.string().min(1).max(200)

/** What the audit log can be narrowed to, for its page and for its file. */
export const EVENT_FILTERS = {
  person: id,
  kind: Joi.string().valid(...EVENT_GROUPS),
  after: Joi.date().iso(),
  before: Joi.date().iso(),
}

export const eventQuery = Joi.object<AuditEventQuery, true>({
  ...EVENT_FILTERS,
  cursor: Joi.number().integer().positive().max(Number.MAX_SAFE_INTEGER),
  mine: Joi.boolean(),
  undoable: Joi.boolean(),
  rule: id,
  list: id,
  limit: Joi.number().integer().min(1).max(200).default(50),
}).oxor('rule', 'list')
