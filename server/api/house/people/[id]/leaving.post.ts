import { Joi } from '#core'
import { defineRoute, idParam } from '../../../../access/route'
import { leave } from '../../../../people/members'

const body = Joi.object<{ heir: string | null }, true>({
  heir: Joi.string()
    .max(80)
    .allow(null)
    .required()
    .messages({ 'any.required': 'say whose it all becomes; null for nobody’s' }),
})

export default defineRoute({ params: idParam, body }, ({ asker, params, body: { heir } }) => leave(asker, params.id, heir))
