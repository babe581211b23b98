import { setResponseStatus } from 'h3'
import { Joi } from '#core'
import { defineRoute } from '../../access/route'
import { makeQuarantine } from '../../policy/quarantines'

const body = Joi.object<{ name: string }, true>({
  name: Joi.string()
    .trim()
    .min(1)
    .max(60)
    .required()
    .messages({ 'string.empty': 'a quarantine needs a name', 'any.required': 'a quarantine needs a name' }),
})

export default defineRoute({ body }, async ({ event, asker, body: { name } }) => {
  const made = await makeQuarantine(asker, name)
  setResponseStatus(event, 201)
  return made
})
