import { setResponseStatus } from 'h3'
import { Joi } from '#core'
import { defineRoute } from '../access/route'
import { emailField, nameField, passwordField, roleField } from '../users/schemas'
import { setUp, type SetupForm } from '../users/setup'

const body = Joi.object<SetupForm, true>({
  token: Joi.string().max(200).required(),
  name: nameField.required(),
  address: emailField.required(),
  password: passwordField.required(),
  domains: Joi.array()
    .items(Joi.string().trim().min(1).max(255))
    .min(1)
    .max(1000)
    .required()
    .messages({ 'array.min': 'enter at least one of your domains' }),
  people: Joi.array()
    .max(500)
    .items(Joi.object({ name: nameField.required(), address: emailField.required(), role: roleField.required(), password: passwordField }))
    .default([]),
})

const version = { none: 'it is done once, by a link that ends with it' }

export default defineRoute({ body, version }, async ({ event, body: form }) => {
  const id = await setUp(form)
  setResponseStatus(event, 201)
  return { id }
})
