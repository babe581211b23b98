import { Joi } from '#core'
import { defineRoute, idParam } from '../../access/route'
import { changeRule, openRule, type RuleForm } from '../../policy/rules'

const body = Joi.object<RuleForm & { version: number }>({ version: Joi.number().integer().required() }).unknown(true)

export default defineRoute(
  { params: idParam, body, version: 'body.version' },
  async ({ asker, params, body: { version, ...form } }) => {
    const { act } = await changeRule(asker, params.id, version, form)
    return { ...(await openRule(asker, params.id)), act }
  },
)
