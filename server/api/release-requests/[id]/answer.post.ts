import { Joi } from '#core'
import { defineRoute, numberParam } from '../../../access/route'
import { confirmed } from '../../../platform/many'
import { answerRequest } from '../../../requests/requests'

const body = Joi.object<{ release: boolean, reason?: string, confirmed?: number[] }, true>({
  release: Joi.boolean().required(),
  reason: Joi.string().trim().min(1).max(2000),
  confirmed,
})

const version = { none: 'a request never changes and is answered once' }

export default defineRoute({ params: numberParam, body, version }, ({ actor, params, body }) => answerRequest(actor, params.id, body))
