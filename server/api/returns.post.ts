import { setResponseStatus } from 'h3'
import { Joi } from '#core'
import { defineRoute } from '../access/route'
import { giveBack, lookAtGivingBack, type GivingBack } from '../impact/return-mail'

const body = Joi.object<GivingBack & { confirmed: boolean }, true>({
  clause: Joi.object({ kind: Joi.string().valid('rule', 'list').required(), id: Joi.string().max(80).required() }).required(),
  after: Joi.date().iso(),
  before: Joi.date().iso(),
  confirmed: Joi.boolean().default(false),
})

const version = { none: 'it is for whatever a clause took and lies there still when its job comes to it' }

export default defineRoute({ body, version }, async ({ event, asker, body: { confirmed, ...giving } }) => {
  if (!confirmed) return lookAtGivingBack(asker, giving)
  const begun = await giveBack(asker, giving)
  setResponseStatus(event, 202)
  return begun
})
