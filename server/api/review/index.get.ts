import { Joi } from '#core'
import { defineRoute } from '../../access/route'
import { groupsAt } from '../../review/groups'
import { placeFields } from '../../review/place-form'
import type { Grouping, Place } from '../../review/waiting'

const query = Joi.object<Place & { by: Grouping }, true>(placeFields)

export default defineRoute({ query }, ({ asker, query }) => groupsAt(asker, query))
