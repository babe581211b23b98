import { defineRoute, numberParam } from '../../../access/route'
import { whatIfOf } from '../../../impact/what-if'

export default defineRoute({ params: numberParam }, ({ actor, params }) => whatIfOf(actor, params.id))
