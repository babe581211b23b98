import { defineRoute, idParam } from '../../access/route'
import { openRule } from '../../policy/rules'

export default defineRoute({ params: idParam }, ({ actor, params }) => openRule(actor, params.id))
