import { defineRoute, numberParam } from '../../../access/route'
import { takeBack } from '../../../acts/take-back'

export default defineRoute({ params: numberParam }, ({ asker, params }) => takeBack(asker, params.id))
