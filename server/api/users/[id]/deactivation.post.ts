import { Joi } from '#core'
import { defineRoute, idParam } from '../../../access/route'
import { leave } from '../../../users/member-changes'
import { userVersionField } from '../../../users/schemas'

const body = Joi.object<{ successor: string | null, version: number }, true>({
  successor: Joi.string()
    .max(80)
    .allow(null)
    .required()
    .messages({ 'any.required': 'name the successor; null for none' }),
  version: userVersionField,
})

export default defineRoute({ params: idParam, body, version: 'body.version' }, ({ actor, params, body: { successor, version } }) =>
  leave(actor, params.id, successor, version))
