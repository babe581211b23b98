import { defineRoute, numberParam } from '../../../access/route'
import { openCopy } from '../../../mail/copies'

export default defineRoute<{ id: number }>({ params: numberParam }, ({ asker, params }) => openCopy(asker, params.id))
