import { Joi } from '#core'
import { ADDS, defineRoute } from '../access/route'
import { importMessage } from '../intake/imports'

const query = Joi.object<{ recipient?: string, trustReceived: boolean }, true>({
  recipient: Joi.string().trim().max(320),
  trustReceived: Joi.boolean().default(false),
})

export default defineRoute<unknown, { recipient?: string, trustReceived: boolean }, Buffer>(
  { query, bytes: 'message/rfc822', version: ADDS },
  async ({ query, body }) => {
    const { copies, receivedAt } = await importMessage(body, query)
    return { receivedAt, copies: copies.map(c => ({ id: c.copyId, recipient: c.recipient, lane: c.lane, repeat: c.repeat })) }
  },
)
