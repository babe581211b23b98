import { Joi } from '#core'
import { defineRoute } from '../../access/route'
import { groupsAt } from '../../review/groups'
import { placeFields } from '../../review/review-place-form'
import type { Grouping, Place } from '../../review/review-place'

const query = Joi.object<Place & { by: Grouping }, true>(placeFields)

export default defineRoute({ query }, ({ asker, query }) => groupsAt(asker, query))
