import { defineRoute } from '../../http/route'
import { listRules } from '../../services/rules'

export default defineRoute({}, ({ asker }) => listRules(asker))
