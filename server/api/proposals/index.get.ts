import { Joi } from '#core'
import { defineRoute } from '../../access/route'
import { countProposals, listProposals } from '../../requests/proposals'

// With ?count only how many there are: who stays on a page asks now and then.
const query = Joi.object<{ count?: string }>({ count: Joi.string().allow('').max(5) })

export default defineRoute({ query }, async ({ asker, query: { count } }) =>
  count === undefined ? listProposals(asker) : { items: [], ...(await countProposals(asker)) })
