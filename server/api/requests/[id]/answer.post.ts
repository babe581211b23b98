import { Joi } from '#core'
import { defineRoute, numberParam } from '../../../access/route'
import { answerRequest } from '../../../mail/requests'

const body = Joi.object<{ give: boolean, reason?: string }, true>({
  give: Joi.boolean().required(),
  reason: Joi.string().trim().min(1).max(2000),
})

export default defineRoute({ params: numberParam, body }, ({ asker, params, body }) => answerRequest(asker, params.id, body))
