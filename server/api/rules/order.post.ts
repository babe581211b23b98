import { setResponseStatus } from 'h3'
import Joi from 'joi'
import { defineRoute } from '../../http/route'
import { orderRules } from '../../services/rules'

const body = Joi.object({ owner: Joi.string().required(), ids: Joi.array().items(Joi.string().max(80)).max(10_000).unique().required() })

export default defineRoute<unknown, unknown, { owner: string, ids: string[] }>({ body }, async ({ event, asker, body: { owner, ids } }) => {
  await orderRules(asker, owner, ids)
  setResponseStatus(event, 204)
  return null
})
