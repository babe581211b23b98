import { Joi } from '#core'
import { defineRoute, idParam } from '../../../access/route'
import { deactivate, type DeactivationForm } from '../../../users/deactivation'
import { userVersionField } from '../../../users/schemas'

const successor = Joi.string().max(80).allow(null).required()
const body = Joi.object<DeactivationForm, true>({
  successor: successor.messages({ 'any.required': 'name the successor; null for none' }),
  addresses: Joi.array()
    .items(Joi.object({ address: Joi.string().max(320).required(), successor }))
    .max(100)
    .default([]),
  version: userVersionField,
})

export default defineRoute({ params: idParam, body, version: 'body.version' }, ({ actor, params, body }) => deactivate(actor, params.id, body))
