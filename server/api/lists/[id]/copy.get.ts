import { Joi } from '#core'
import { defineRoute, idParam } from '../../../access/route'
import { listCopy } from '../../../policy/list-copy'

const query = Joi.object<{ owner: string }, true>({ owner: Joi.string().max(100).required().messages({ 'any.required': 'choose for whom' }) })

export default defineRoute({ params: idParam, query }, ({ actor, params, query: { owner } }) => listCopy(actor, params.id, owner))
