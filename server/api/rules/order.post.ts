import { Joi } from '#core'
import { defineRoute } from '../../access/route'
import { orderRules } from '../../policy/rules'

const body = Joi.object<{ owner: string, ids: string[], version: number }, true>({
  owner: Joi.string().max(100).required(),
  ids: Joi.array().items(Joi.string().max(80)).max(10_000).unique().required(),
  version: Joi.number().integer().required().messages({ 'any.required': 'give the version of the rules that you read' }),
})

export default defineRoute(
  { body, version: 'body.version' },
  ({ actor, body: { owner, ids, version } }) => orderRules(actor, owner, ids, version),
)
