import { defineRoute } from '../../access/route'
import { listLists } from '../../policy/lists'

export default defineRoute({}, async ({ actor }) => ({ items: await listLists(actor) }))
