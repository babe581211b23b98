import { defineRoute } from '../../http/route'
import { listRules } from '../../services/rules'

export default defineRoute({}, async ({ asker }) => ({ items: await listRules(asker) }))
