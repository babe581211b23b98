import { setResponseStatus } from 'h3'
import { defineRoute } from '../http/route'
import { endSessions } from '../services/people'

export default defineRoute({}, async ({ event }) => {
  const { user } = await getUserSession(event) as { user?: { id: string } }
  // Every cookie of this person ends, copied ones too.
  if (user) await endSessions(user.id)
  await clearUserSession(event)
  setResponseStatus(event, 204)
  return null
})
