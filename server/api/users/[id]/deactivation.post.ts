import { Joi } from '#core'
import { defineRoute, idParam } from '../../../access/route'
import { leave } from '../../../users/member-changes'
import { userVersionField } from '../../../users/schemas'

const body = Joi.object<{ heir: string | null, version: number }, true>({
  heir: Joi.string()
    .max(80)
    .allow(null)
    .required()
    .messages({ 'any.required': 'say whose it all becomes; null for nobody’s' }),
  version: userVersionField,
})

export default defineRoute({ params: idParam, body, version: 'body.version' }, ({ asker, params, body: { heir, version } }) =>
  leave(asker, params.id, heir, version))
