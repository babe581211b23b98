import { Joi } from '#core'
import { defineRoute } from '../../access/route'
import { copiesField } from '../../impact/save-form'
import { requestRelease } from '../../requests/requests'

const body = Joi.object<{ ids: number[], note: string }, true>({
  ids: copiesField.min(1).required(),
  note: Joi.string().trim().allow('').max(2000).default(''),
})

const version = { none: 'it is for whatever is held by then' }

export default defineRoute({ body, version }, ({ actor, body: { ids, note } }) => requestRelease(actor, ids, note))
