import { Joi } from '#core'
import { defineRoute } from '../../access/route'
import { listActs, type ActQuery } from '../../audit/list'

const query = Joi.object<ActQuery, true>({
  before: Joi.number().integer().positive().max(Number.MAX_SAFE_INTEGER),
  mine: Joi.boolean(),
  undoable: Joi.boolean(),
  limit: Joi.number().integer().min(1).max(200).default(50),
})

export default defineRoute({ query }, ({ asker, query: page }) => listActs(asker, page))
