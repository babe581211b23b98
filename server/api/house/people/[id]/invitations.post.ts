import { getRequestURL, setResponseStatus } from 'h3'
import { defineRoute, idParam } from '../../../../access/route'
import { invite } from '../../../../people/invitations'

export default defineRoute({ params: idParam }, async ({ event, asker, params }) => {
  const made = await invite(asker, params.id, getRequestURL(event).origin)
  setResponseStatus(event, 201)
  return made
})
