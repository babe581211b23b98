import { defineRoute, idParam } from '../../../access/route'
import { atStake } from '../../../users/deactivation'

export default defineRoute({ params: idParam }, ({ params }) => atStake(params.id))
