import { setResponseStatus } from 'h3'
import Joi from 'joi'
import { defineRoute } from '../http/route'
import { setUp, type SetupForm } from '../services/setup'

const email = Joi.string().trim().email({ tlds: false, allowUnicode: true }).required().messages({ 'string.email': 'write it as name@domain', 'string.empty': 'an address is missing' })
const password = Joi.string().min(10).max(1000).messages({ 'string.min': 'a password has at least 10 characters', 'string.empty': 'a password is missing' })
const name = Joi.string().trim().min(1).max(120).required().messages({ 'string.empty': 'a name is missing' })

const body = Joi.object({
  token: Joi.string().required(),
  name,
  address: email,
  password: password.required(),
  domains: Joi.array().items(Joi.string().trim().min(1).max(255)).min(1).required().messages({ 'array.min': 'name at least one domain of yours' }),
  people: Joi.array().max(500).items(Joi.object({ name, address: email, role: Joi.string().valid('administrator', 'reviewer', 'worker').required(), password })).default([]),
})

export default defineRoute<unknown, unknown, SetupForm>({ body }, async ({ event, body: form }) => {
  const id = await setUp(form)
  setResponseStatus(event, 201)
  return { id }
})
