import { Joi } from '#core'
import { defineRoute } from '../../access/route'
import { countProposals, sawAnswers } from '../../requests/proposals'

const body = Joi.object<{ ids: number[] }, true>({
  ids: Joi.array().items(Joi.number().integer().positive().max(Number.MAX_SAFE_INTEGER)).max(1000).required(),
})

const version = { none: 'only that one’s own answers were read' }

export default defineRoute({ body, version }, async ({ actor, body: { ids } }) => {
  await sawAnswers(actor, ids)
  return countProposals(actor)
})
