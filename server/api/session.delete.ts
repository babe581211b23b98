import { setResponseStatus } from 'h3'
import { defineRoute } from '../access/route'
import { readSession } from '../users/session'
import { endSessions } from '../users/people'

const version = { none: 'it ends the session that the cookie names' }

export default defineRoute({ version }, async ({ event }) => {
  const user = await readSession(event)
  if (user) {
    // Every cookie of this sign-in ends, copied ones too; one that has ended already ends no later ones.
    await endSessions(user.id, user.epoch)
    await clearUserSession(event)
  }
  setResponseStatus(event, 204)
  return null
})
