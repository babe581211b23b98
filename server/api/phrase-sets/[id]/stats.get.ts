import { defineRoute, idParam } from '../../../access/route'
import { recordOfSet } from '../../../impact/rule-parts'

export default defineRoute({ params: idParam }, ({ asker, params }) => recordOfSet(asker, params.id))
