import { defineRoute, numberParam } from '../../../http/route'
import { takeBack } from '../../../services/moves'

export default defineRoute<{ id: number }>({ params: numberParam }, ({ asker, params }) => takeBack(asker, params.id))
