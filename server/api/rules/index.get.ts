import { defineRoute } from '../../access/route'
import { listRules } from '../../policy/rules'

export default defineRoute({}, ({ asker }) => listRules(asker))
