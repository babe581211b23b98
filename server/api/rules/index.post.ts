import { setResponseStatus } from 'h3'
import { Joi } from '#core'
import { ADDS, defineRoute } from '../../access/route'
import { makeRule, openRule, type RuleForm } from '../../policy/rules'

// The rule itself is checked by the policy's own schema.
export default defineRoute({ body: Joi.object<RuleForm>().unknown(true), version: ADDS }, async ({ event, actor, body }) => {
  const { id, eventId } = await makeRule(actor, { ...body, except: body.except ?? [] })
  setResponseStatus(event, 201)
  return { ...(await openRule(actor, id)), eventId }
})
