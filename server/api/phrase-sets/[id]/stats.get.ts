import { defineRoute, idParam } from '../../../access/route'
import { statsOfSet } from '../../../impact/rule-parts'

export default defineRoute({ params: idParam }, ({ actor, params }) => statsOfSet(actor, params.id))
