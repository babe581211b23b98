import { setResponseHeaders } from 'h3'
import { defineRoute, numberParam } from '../../../access/route'
import { copySource } from '../../../copies/copies'

export default defineRoute({ params: numberParam }, async ({ event, actor, params }) => {
  const raw = await copySource(actor, params.id)
  setResponseHeaders(event, {
    'content-type': 'message/rfc822',
    'content-disposition': `attachment; filename="message-${params.id}.eml"`,
    'x-content-type-options': 'nosniff',
  })
  return raw
})
