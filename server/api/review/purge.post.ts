import { setResponseStatus } from 'h3'
import { Joi } from '#core'
import { defineRoute } from '../../access/route'
import { beginPurge, type Purge } from '../../retention/purge'

const body = Joi.object<Purge, true>({
  lane: Joi.string().valid('bin', 'spam').required(),
  senders: Joi.array().items(Joi.string().max(500).allow('')).min(1).max(500),
  count: Joi.number().integer().min(1).max(2_147_483_647).required().messages({ 'number.min': 'there is nothing to delete' }),
})

export default defineRoute({ body, version: 'body.count' }, ({ event, actor, body }) => {
  setResponseStatus(event, 202)
  return beginPurge(actor, body)
})
