import { Joi } from '#core'
import { defineRoute, idParam } from '../../access/route'
import { changeRule, openRule, type RuleForm } from '../../policy/rules'

const body = Joi.object({ version: Joi.number().integer().required() }).unknown(true)

export default defineRoute<{ id: string }, unknown, RuleForm & { version: number }>(
  { params: idParam, body },
  async ({ asker, params, body: { version, ...form } }) => {
    const { act } = await changeRule(asker, params.id, version, form)
    return { ...(await openRule(asker, params.id)), act }
  },
)
