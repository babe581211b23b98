import { Joi } from '#core'
import { defineRoute, idParam } from '../../../access/route'
import { takeFromList } from '../../../policy/list-entries'

const body = Joi.object<{ ids: string[] }, true>({ ids: Joi.array().items(Joi.string().max(80)).min(1).max(10_000).single().required() })

export default defineRoute({ params: idParam, body }, ({ asker, params, body: { ids } }) =>
  takeFromList(asker, params.id, ids),
)
