import { defineRoute, numberParam } from '../../../http/route'
import { openCopy } from '../../../services/copies'

export default defineRoute<{ id: number }>({ params: numberParam }, ({ asker, params }) => openCopy(asker, params.id))
