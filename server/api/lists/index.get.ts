import { defineRoute } from '../../access/route'
import { listLists } from '../../policy/lists'

export default defineRoute({}, async ({ asker }) => ({ items: await listLists(asker) }))
