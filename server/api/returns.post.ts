import { setResponseStatus } from 'h3'
import { Joi } from '#core'
import { defineRoute } from '../access/route'
import { returnMail, previewReturn, type ReturnMail } from '../impact/return-mail'

const body = Joi.object<ReturnMail & { confirmed: boolean }, true>({
  clause: Joi.object({ kind: Joi.string().valid('rule', 'list').required(), id: Joi.string().max(80).required() }).required(),
  after: Joi.date().iso(),
  before: Joi.date().iso(),
  confirmed: Joi.boolean().default(false),
})

const version = { none: 'it applies to the messages that the list or rule stopped, as the job finds them' }

export default defineRoute({ body, version }, async ({ event, actor, body: { confirmed, ...giving } }) => {
  if (!confirmed) return previewReturn(actor, giving)
  const begun = await returnMail(actor, giving)
  setResponseStatus(event, 202)
  return begun
})
