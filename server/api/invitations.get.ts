import { Joi } from '#core'
import { defineRoute } from '../access/route'
import { openInvitation } from '../people/invitations'

export default defineRoute({ query: Joi.object<{ token: string }, true>({ token: Joi.string().max(200).required() }) }, ({ query }) =>
  openInvitation(query.token),
)
