import { defineRoute, idParam } from '../../access/route'
import { openRule } from '../../policy/rules'

export default defineRoute({ params: idParam }, ({ asker, params }) => openRule(asker, params.id))
