import { defineEventHandler, getRequestURL, getRequestHeader } from 'h3'
import { timingSafeEqual } from 'node:crypto'
import { EVERYBODY, rolesFor } from '../http/access'
import { answerProblem, problemOf } from '../http/route'
import { findPerson, type Asker } from '../services/people'
import { notFound, Problem } from '../services/problem'
import { isReady, processRoles, ready } from '../services/readiness'

/** The one door to every route below /api: denied unless access.ts names the caller's role. */
export default defineEventHandler(async (event) => {
  const { pathname } = getRequestURL(event)
  if (!pathname.startsWith('/api/')) return
  try {
    const health = pathname === '/api/health'
    if (!health && !processRoles().includes('web')) throw notFound('page: this process does not serve people')
    const roles = rolesFor(event.method, pathname.replace(/\/$/, ''))
    if (!roles) throw new Problem(404, 'Not found', `There is nothing at ${event.method} ${pathname}.`)
    if (!health && !isReady()) await ready
    if (roles === EVERYBODY) return
    const asker = commandLine(getRequestHeader(event, 'authorization')) ?? await sessionPerson(event)
    if (!asker) throw new Problem(401, 'Sign in first', 'You are not signed in, or your session has ended. Sign in and repeat this.')
    if (!roles.includes(asker.role)) throw new Problem(403, 'Not allowed', `This is for ${roles.join(' and ')} only.`)
    event.context.asker = asker
  }
  catch (error) {
    return answerProblem(event, problemOf(error))
  }
})

async function sessionPerson(event: Parameters<typeof getUserSession>[0]): Promise<Asker | null> {
  const session = await getUserSession(event)
  const user = session.user as { id: string, epoch: number } | undefined
  const person = user ? await findPerson(user.id) : null
  // A sealed cookie alone cannot be taken back; the epoch can.
  return person && person.epoch === user!.epoch ? person : null
}

// The command line beside a running installation: whoever may read its data folder is trusted as an administrator.
function commandLine(header: string | undefined): Asker | null {
  const token = process.env.SOBER_GATE_LOCAL_TOKEN ?? ''
  const given = /^Bearer (.+)$/.exec(header ?? '')?.[1]
  if (!given || token.length < 32 || given.length !== token.length || !timingSafeEqual(Buffer.from(given), Buffer.from(token))) return null
  return { id: 'command-line', name: 'the command line', role: 'administrator', addresses: [], departments: [], epoch: 0 }
}
