import { setResponseStatus } from 'h3'
import { defineRoute, idParam } from '../../../access/route'
import { requestOrigin } from '../../../platform/client-address'
import { invite } from '../../../users/invitations'

const version = { none: 'a new link ends the ones before it, whatever else is changed' }

export default defineRoute({ params: idParam, version }, async ({ event, actor, params }) => {
  const made = await invite(actor, params.id, requestOrigin(event))
  setResponseStatus(event, 201)
  return made
})
