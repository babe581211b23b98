import { defineRoute, idParam } from '../../access/route'
import { openRule } from '../../policy/rules'

export default defineRoute<{ id: string }>({ params: idParam }, ({ asker, params }) => openRule(asker, params.id))
