import { Joi } from '#core'
import { defineRoute } from '../../access/route'
import { copiesField } from '../../impact/save-form'
import { sawReleased } from '../../requests/requests'

const body = Joi.object<{ ids: number[] }, true>({ ids: copiesField.min(1).required() })

const version = { none: 'only that one’s own answers were read' }

export default defineRoute({ body, version }, async ({ actor, body: { ids } }) => {
  await sawReleased(actor, ids)
  return { ids }
})
