import { defineRoute, numberParam } from '../../../access/route'
import { openCopy } from '../../../copies/copies'

export default defineRoute({ params: numberParam }, ({ actor, params }) => openCopy(actor, params.id))
