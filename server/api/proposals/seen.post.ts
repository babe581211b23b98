import { Joi } from '#core'
import { defineRoute } from '../../access/route'
import { countProposals, sawAnswers } from '../../mail/proposals'

const body = Joi.object<{ ids: number[] }, true>({
  ids: Joi.array().items(Joi.number().integer().positive().max(Number.MAX_SAFE_INTEGER)).max(1000).required(),
})

export default defineRoute({ body }, async ({ asker, body: { ids } }) => {
  await sawAnswers(asker, ids)
  return countProposals(asker)
})
