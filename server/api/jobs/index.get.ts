import { Joi } from '#core'
import { defineRoute } from '../../access/route'
import { listJobs } from '../../jobs/store'

const query = Joi.object<{ before?: number, limit: number }, true>({
  before: Joi.number().integer().positive().max(Number.MAX_SAFE_INTEGER),
  limit: Joi.number().integer().min(1).max(200).default(50),
})

export default defineRoute({ query }, ({ actor, query: page }) => listJobs(actor, page))
