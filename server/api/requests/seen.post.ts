import { Joi } from '#core'
import { defineRoute } from '../../access/route'
import { copiesField } from '../../mail/changing-form'
import { sawGiven } from '../../mail/requests'

const body = Joi.object<{ ids: number[] }, true>({ ids: copiesField.min(1).required() })

export default defineRoute({ body }, async ({ asker, body: { ids } }) => {
  await sawGiven(asker, ids)
  return { ids }
})
