import { Joi } from '#core'
import { defineRoute, idParam } from '../../../access/route'
import { openList } from '../../../policy/lists'

const query = Joi.object<{ words?: string, after?: number, limit: number }, true>({
  words: Joi.string().allow('').max(200),
  after: Joi.number().integer(),
  limit: Joi.number().integer().min(1).max(500).default(100),
})

export default defineRoute(
  { params: idParam, query },
  ({ actor, params, query: page }) => openList(actor, params.id, page),
)
