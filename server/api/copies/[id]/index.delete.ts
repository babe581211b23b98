import { Joi } from '#core'
import { defineRoute, numberParam } from '../../../access/route'
import { deletePermanently } from '../../../retention/delete-one'

const query = Joi.object<{ version: number }, true>({
  version: Joi.number().integer().min(0).required().messages({ 'any.required': 'name the version in which you read the message' }),
})

export default defineRoute({ params: numberParam, query, version: 'query.version' }, ({ actor, params, query: { version } }) =>
  deletePermanently(actor, params.id, version))
