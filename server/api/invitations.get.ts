import { Joi } from '#core'
import { defineRoute } from '../access/route'
import { openInvitation } from '../users/invitations'

export default defineRoute({ query: Joi.object<{ token: string }, true>({ token: Joi.string().max(200).required() }) }, ({ query }) =>
  openInvitation(query.token),
)
