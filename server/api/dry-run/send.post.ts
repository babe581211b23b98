import { Joi } from '#core'
import { ADDS, defineRoute } from '../../access/route'
import { sendTest, type SendingForm } from '../../dry-run/send-test'

const body = Joi.object<SendingForm, true>({
  recipient: Joi.string().trim().max(320).required(),
  from: Joi.string().trim().max(500).required(),
  subject: Joi.string().allow('').max(2000).default(''),
  text: Joi.string().allow('').max(1_000_000).default(''),
})

export default defineRoute({ body, version: ADDS }, ({ actor, body }) => sendTest(actor, body))
