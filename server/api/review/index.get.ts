import { Joi } from '#core'
import { defineRoute } from '../../access/route'
import { groupsAt } from '../../review/groups'
import { placeFields } from '../../review/review-place-form'
import type { Grouping, ReviewPlace } from '../../review/review-place'

const query = Joi.object<ReviewPlace & { by: Grouping }, true>(placeFields)

export default defineRoute({ query }, ({ actor, query }) => groupsAt(actor, query))
