import { defineRoute } from '../../access/route'
import { listPhraseSets } from '../../policy/phrase-sets'

export default defineRoute({}, async ({ actor }) => ({ items: await listPhraseSets(actor) }))
