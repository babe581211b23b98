import { defineRoute } from '../../access/route'
import { retention } from '../../users/settings'
import { reviewPlacesFor } from '../../review/review-places'

export default defineRoute({}, async ({ actor }) => reviewPlacesFor(actor, await retention()))
