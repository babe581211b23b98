import { defineRoute } from '../../http/route'
import { listLists } from '../../services/lists'

export default defineRoute({}, async ({ asker }) => ({ items: await listLists(asker) }))
