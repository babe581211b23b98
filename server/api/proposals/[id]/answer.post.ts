import { Joi } from '#core'
import { defineRoute, numberParam } from '../../../access/route'
import { confirmedField, existingField } from '../../../impact/save-form'
import { answerProposal, type Answer } from '../../../requests/proposals'

const body = Joi.object<Answer, true>({
  accept: Joi.boolean().required(),
  reason: Joi.string().trim().max(2000),
  base: Joi.number().integer().min(0).max(2_147_483_647),
  existing: existingField,
  confirmed: confirmedField,
})

const version = { none: 'a proposal never changes and is answered once; the version that it was made on is its own' }

export default defineRoute({ params: numberParam, body, version }, ({ actor, params, body }) => answerProposal(actor, params.id, body))
