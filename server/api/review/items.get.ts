import { Joi } from '#core'
import { defineRoute } from '../../access/route'
import { retention } from '../../users/settings'
import { itemsAt, type ItemsAsked } from '../../review/items'
import { placeFields } from '../../review/review-place-form'

const query = Joi.object<ItemsAsked, true>({
  ...placeFields,
  key: Joi.string().allow('').max(500),
  soon: Joi.boolean().default(false),
  informative: Joi.boolean().default(false),
  cursor: Joi.string().max(200),
  limit: Joi.number().integer().min(1).max(200).default(50),
})

export default defineRoute({ query }, async ({ actor, query }) => itemsAt(actor, query, await retention()))
