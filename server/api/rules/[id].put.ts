import { Joi } from '#core'
import { defineRoute, idParam } from '../../access/route'
import { changeRule, openRule, type RuleForm } from '../../policy/rules'

const body = Joi.object<RuleForm & { version: number }>({ version: Joi.number().integer().required() }).unknown(true)

export default defineRoute(
  { params: idParam, body, version: 'body.version' },
  async ({ actor, params, body: { version, ...form } }) => {
    const { eventId } = await changeRule(actor, params.id, version, form)
    return { ...(await openRule(actor, params.id)), eventId }
  },
)
