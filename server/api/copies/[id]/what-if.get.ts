import { defineRoute, numberParam } from '../../../access/route'
import { whatIfOf } from '../../../impact/what-if'

export default defineRoute({ params: numberParam }, ({ asker, params }) => whatIfOf(asker, params.id))
