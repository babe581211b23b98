import { Joi } from '#core'
import { defineRoute, idParam } from '../../access/route'
import { removeQuarantine } from '../../review/quarantine-removal'
import { quarantineVersionField } from '../../policy/quarantine-form'

const query = Joi.object<{ to: string, version: number }, true>({
  to: Joi.string().max(80).required().messages({ 'any.required': 'name the quarantine to which its mail is moved: ?to=general' }),
  version: quarantineVersionField,
})

export default defineRoute({ params: idParam, query, version: 'query.version' }, ({ actor, params, query: { to, version } }) =>
  removeQuarantine(actor, params.id, to, version))
