import { Joi } from '#core'
import { defineRoute } from '../http/route'
import { setupIsOpen } from '../services/setup'

export default defineRoute<unknown, { token: string }>(
  { query: Joi.object({ token: Joi.string().allow('').max(200).default('') }) },
  async ({ query }) => ({ open: await setupIsOpen(query.token) }),
)
