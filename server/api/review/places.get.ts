import { defineRoute } from '../../access/route'
import { keeping } from '../../people/house'
import { placesFor } from '../../review/places'

export default defineRoute({}, async ({ asker }) => placesFor(asker, await keeping()))
