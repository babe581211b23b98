import { Joi } from '#core'
import { defineRoute, idParam } from '../../access/route'
import { removeQuarantine } from '../../mail/quarantine-removal'

const query = Joi.object<{ to: string }, true>({
  to: Joi.string().max(80).required().messages({ 'any.required': 'say into which other quarantine its mail goes: ?to=general' }),
})

export default defineRoute({ params: idParam, query }, ({ asker, params, query: { to } }) => removeQuarantine(asker, params.id, to))
