import { defineRoute, idParam } from '../../http/route'
import { openRule } from '../../services/rules'

export default defineRoute<{ id: string }>({ params: idParam }, ({ asker, params }) => openRule(asker, params.id))
