import { Joi } from '#core'
import { defineRoute } from '../../access/route'
import { countProposals, listProposals } from '../../requests/proposals'

// With ?count only how many there are: who stays on a page asks now and then.
const query = Joi.object<{ count?: string }>({ count: Joi.string().allow('').max(5) })

export default defineRoute({ query }, async ({ actor, query: { count } }) =>
  count === undefined ? listProposals(actor) : { items: [], ...(await countProposals(actor)) })
