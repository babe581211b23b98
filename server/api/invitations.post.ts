import { Joi } from '#core'
import { defineRoute } from '../access/route'
import { acceptInvitation } from '../people/invitations'
import { passwordField } from '../people/schemas'

const body = Joi.object<{ token: string, password: string }, true>({
  token: Joi.string().max(200).required(),
  password: passwordField.required(),
})

export default defineRoute({ body }, ({ body: { token, password } }) => acceptInvitation(token, password))
