import { defineRoute } from '../../http/route'
import { listPhraseSets } from '../../services/phrase-sets'

export default defineRoute({}, async ({ asker }) => ({ items: await listPhraseSets(asker) }))
