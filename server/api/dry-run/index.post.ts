import { Joi } from '#core'
import { COMPUTES, defineRoute } from '../../access/route'
import { changesOf } from '../../policy/changes-form'
import { runDry, type DryRunForm } from '../../dry-run/dry-run'

const body = Joi.object<Omit<DryRunForm, 'changes'> & { changes?: unknown[] }, true>({
  changes: Joi.array().min(1).max(20),
  recipient: Joi.string()
    .trim()
    .max(320)
    .required()
    .messages({ 'string.empty': 'enter the recipient', 'any.required': 'enter the recipient' }),
  message: Joi.string().max(10_000_000).messages({ 'string.empty': 'the message is empty' }),
  from: Joi.string().trim().max(500),
  subject: Joi.string().allow('').max(2000),
  text: Joi.string().allow('').max(1_500_000),
  mailFrom: Joi.string().trim().allow('').max(320),
  client: Joi.string().ip({ cidr: 'forbidden' }).messages({ 'string.ip': 'enter an IP address' }),
  authentication: Joi.string().valid('pass', 'fail', 'none'),
  inside: Joi.boolean(),
})
  .xor('message', 'from')
  .messages({
    'object.missing': 'give a message, or from, subject and text',
    'object.xor': 'give either a whole message, or from, subject and text',
  })

export default defineRoute({ body, most: 'large', version: COMPUTES }, async ({ actor, body: { changes, ...form } }) =>
  runDry(actor, { ...form, ...(changes ? { changes: await changesOf(changes) } : {}) }))
