import { defineRoute, numberParam } from '../../../access/route'
import { openCopy } from '../../../copies/copies'
import { retention } from '../../../users/settings'

export default defineRoute({ params: numberParam }, async ({ actor, params }) => openCopy(actor, params.id, await retention()))
