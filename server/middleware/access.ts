import { defineEventHandler, getRequestHeader, setResponseHeader } from 'h3'
import { EVERYBODY, grantFor } from '../access/routes'
import isSame from 'fast-deep-equal'
import { apiPath } from '../platform/api-path'
import type { Reader } from '../platform/events'
import { isCrossOrigin } from '../platform/origin'
import { answerProblem, problemOf } from '../access/route'
import { sessionPerson } from '../users/session'
import { COMMAND_LINE, type Actor } from '../access/roles'
import { notFound, Problem } from '../platform/problem'
import { isReady, processRoles, ready } from '../platform/readiness'
import { isSecret } from '../platform/secrets'

/** The one door to every route below /api: denied unless server/access/routes.ts names the caller's role for exactly this route. */
export default defineEventHandler(async (event) => {
  const asked = apiPath(event.node.req.url ?? '/')
  if (asked === null) return
  setResponseHeader(event, 'cache-control', 'no-store')
  try {
    if (asked === 'odd') throw new Problem(404, 'Not found', 'Nothing exists at this path. Write it plainly, as /api/NAME.')
    const health = asked.path === '/api/health'
    if (!health && !processRoles().includes('web')) throw notFound('This page')
    const granted = grantFor(event.method, asked.path)
    if (!granted) throw new Problem(404, 'Not found', `Nothing exists at ${event.method} ${asked.path}.`)
    if (isCrossOrigin(event.method, event.node.req.headers))
      throw new Problem(403, 'Not allowed', 'This request came from a page of another site. Open Sober Gate and try again there.')
    if (!health && !isReady()) await ready
    if (granted.roles !== EVERYBODY) {
      const actor = commandLine(getRequestHeader(event, 'authorization')) ?? (await sessionPerson(event))
      if (!actor) throw new Problem(401, 'Sign in first', 'You are not signed in, or your session has ended. Sign in and try again.')
      if (!granted.roles.includes(actor.role))
        throw new Problem(403, 'Not allowed', `Only these roles can do this: ${granted.roles.join(', ')}.`)
      event.context.actor = actor
      event.context.reader = readerOf(actor, () => sessionPerson(event))
    }
    // The route that the router then finds checks that it is this one.
    event.context.granted = granted.route
  }
  catch (error) {
    return answerProblem(event, problemOf(error))
  }
})

// For what goes on after its answer has begun.
function readerOf(actor: Actor, askAgain: () => Promise<Actor | null>): Reader {
  return { id: actor.id, isUnchanged: async () => actor === COMMAND_LINE || isSame(await askAgain(), actor) }
}

// The command line beside a running installation: whoever may read its data folder is trusted as an administrator.
function commandLine(header: string | undefined): Actor | null {
  const token = process.env.SOBER_GATE_LOCAL_TOKEN ?? ''
  const given = /^Bearer (\S{1,200})$/.exec(header ?? '')?.[1]
  if (!given || token.length < 32 || !isSecret(given, token)) return null
  return COMMAND_LINE
}
