import { defineRoute } from '../../access/route'
import { keeping } from '../../users/settings'
import { placesFor } from '../../review/review-places'

export default defineRoute({}, async ({ asker }) => placesFor(asker, await keeping()))
