import { defineRoute } from '../../access/route'
import { countReview } from '../../review/review-places'

export default defineRoute({}, ({ actor }) => countReview(actor))
