import { Joi } from '#core'
import { defineRoute, idParam } from '../../../access/route'
import { takeFromList } from '../../../policy/list-entries'

const body = Joi.object<{ ids: string[] }, true>({ ids: Joi.array().items(Joi.string().max(80)).min(1).max(10_000).single().required() })

const version = { none: 'an entry is its value, which never changes; one that is gone already is no error' }

export default defineRoute({ params: idParam, body, version }, ({ actor, params, body: { ids } }) =>
  takeFromList(actor, params.id, ids),
)
