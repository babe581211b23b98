import { Joi } from '#core'
import { defineRoute, numberParam } from '../../../access/route'
import { confirmedField, existingField } from '../../../mail/changing-form'
import { answerProposal, type Answer } from '../../../mail/proposals'

const body = Joi.object<Answer, true>({
  accept: Joi.boolean().required(),
  reason: Joi.string().trim().max(2000),
  base: Joi.number().integer().min(0).max(2_147_483_647),
  existing: existingField,
  confirmed: confirmedField,
})

export default defineRoute({ params: numberParam, body }, ({ asker, params, body }) => answerProposal(asker, params.id, body))
