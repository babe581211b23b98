import { setResponseStatus } from 'h3'
import type { CustomHelpers, ErrorReport } from 'joi'
import { Joi } from '#core'
import { ROLES } from '../access/roles'
import { defineRoute } from '../access/route'
import { setUp, type SetupForm } from '../people/setup'

// NIST SP 800-63B asks for length, and for nothing else.
const LEAST = 12

function notBlanks(text: string, helpers: CustomHelpers<string>): string | ErrorReport {
  return text.replace(/\s/g, '').length >= LEAST
    ? text
    : helpers.message({ custom: `a password has at least ${LEAST} characters that are not blanks` })
}

const email = Joi.string()
  .trim()
  .email({ tlds: false, allowUnicode: true })
  .required()
  .messages({ 'string.email': 'write it as name@domain', 'string.empty': 'an address is missing' })
const password = Joi.string()
  .min(LEAST)
  .max(1000)
  .custom(notBlanks)
  .messages({
    'string.min': `a password has at least ${LEAST} characters`,
    'string.empty': 'a password is missing',
  })
const name = Joi.string().trim().min(1).max(120).required().messages({ 'string.empty': 'a name is missing' })

const body = Joi.object<SetupForm, true>({
  token: Joi.string().required(),
  name,
  address: email,
  password: password.required(),
  domains: Joi.array()
    .items(Joi.string().trim().min(1).max(255))
    .min(1)
    .required()
    .messages({ 'array.min': 'name at least one domain of yours' }),
  people: Joi.array()
    .max(500)
    .items(Joi.object({ name, address: email, role: Joi.string()
      .valid(...ROLES)
      .required(), password }))
    .default([]),
})

export default defineRoute({ body }, async ({ event, body: form }) => {
  const id = await setUp(form)
  setResponseStatus(event, 201)
  return { id }
})
