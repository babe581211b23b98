import { Joi } from '#core'
import { COMPUTES, defineRoute } from '../access/route'
import { manyQuery } from '../copies/copy-filter'
import { suggestFrom, type SuggestionForm } from '../suggestions/suggestions'

const body = Joi.object<SuggestionForm>({
  ids: Joi.array().items(Joi.number().integer().positive().max(Number.MAX_SAFE_INTEGER)).min(1).max(200),
  query: manyQuery,
  then: Joi.object({
    to: Joi.string().valid('inbox', 'spam', 'quarantine', 'bin', 'refuse').required(),
    quarantine: Joi.when('to', { is: 'quarantine', then: Joi.string().max(80).required(), otherwise: Joi.forbidden() }),
  }),
  owner: Joi.string().max(200),
}).xor('ids', 'query')

export default defineRoute({ body, version: COMPUTES }, ({ actor, body }) => suggestFrom(actor, body))
