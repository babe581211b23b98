import { Joi } from '#core'
import { defineRoute } from '../access/route'
import { acceptInvitation } from '../users/invitations'
import { passwordField } from '../users/schemas'

const body = Joi.object<{ token: string, password: string }, true>({
  token: Joi.string().max(200).required(),
  password: passwordField.required(),
})

const version = { none: 'a link works once, and ends when another is made' }

export default defineRoute({ body, version }, ({ body: { token, password } }) => acceptInvitation(token, password))
