import { Joi } from '#core'
import { defineRoute } from '../access/route'
import { setupIsOpen } from '../users/setup'

export default defineRoute(
  { query: Joi.object({ token: Joi.string().allow('').max(200).default('') }) },
  async ({ query }) => ({ open: await setupIsOpen(query.token) }),
)
