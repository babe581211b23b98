import { defineRoute, numberParam } from '../../../access/route'
import { takeBack } from '../../../mail/moves'

export default defineRoute<{ id: number }>({ params: numberParam }, ({ asker, params }) => takeBack(asker, params.id))
