import { defineRoute, numberParam } from '../../../access/route'
import { openCopy } from '../../../copies/copies'

export default defineRoute({ params: numberParam }, ({ asker, params }) => openCopy(asker, params.id))
