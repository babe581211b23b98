import { defineRoute } from '../../access/route'
import { listRules } from '../../policy/rules'

export default defineRoute({}, ({ actor }) => listRules(actor))
