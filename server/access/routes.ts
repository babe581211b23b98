import { ROLES, type Role } from './roles'

export const EVERYBODY = 'everybody'
const ALL: readonly Role[] = ROLES
const ADMINISTRATORS: readonly Role[] = ['administrator']

/**
 * Who may call what, in one place. A route that is not named here is denied to everybody. Whose mail or clauses a call
 * may touch is decided by the services; this says only who may knock.
 */
export const ACCESS: Record<string, readonly Role[] | typeof EVERYBODY> = {
  'GET /api/health': EVERYBODY,
  'GET /api/session': EVERYBODY,
  'POST /api/session': EVERYBODY,
  'DELETE /api/session': EVERYBODY,
  'PUT /api/session/password': ALL,
  'GET /api/invitations': EVERYBODY,
  'POST /api/invitations': EVERYBODY,
  'GET /api/setup': EVERYBODY,
  'POST /api/setup': EVERYBODY,
  'GET /api/directory': ALL,
  'GET /api/copies': ALL,
  'GET /api/copies/count': ALL,
  'GET /api/copies/labels': ALL,
  'GET /api/copies/:id': ALL,
  'DELETE /api/copies/:id': ALL,
  'GET /api/copies/:id/source': ALL,
  'POST /api/copies/lane': ALL,
  'POST /api/copies/judgement': ALL,
  'GET /api/copies/:id/what-if': ALL,
  'POST /api/impact': ALL,
  'POST /api/impact/hits': ALL,
  'POST /api/impact/parts': ALL,
  'GET /api/phrase-sets/:id/stats': ALL,
  'POST /api/changes': ALL,
  'POST /api/suggestions': ALL,
  'GET /api/proposals': ALL,
  'POST /api/proposals': ALL,
  'POST /api/proposals/seen': ALL,
  'POST /api/proposals/:id/answer': ALL,
  'GET /api/review': ALL,
  'GET /api/review/places': ALL,
  'GET /api/review/items': ALL,
  'GET /api/review/count': ALL,
  'POST /api/review/purge': ALL,
  'POST /api/fixes': ALL,
  'POST /api/fixes/together': ALL,
  'GET /api/release-requests': ALL,
  'POST /api/release-requests': ALL,
  'POST /api/release-requests/seen': ALL,
  'POST /api/release-requests/:id/answer': ALL,
  'POST /api/returns': ALL,
  'GET /api/newly-stopped': ALL,
  'POST /api/newly-stopped/seen': ALL,
  'GET /api/senders': ALL,
  'GET /api/attempts': ALL,
  'GET /api/audit-events': ALL,
  'GET /api/audit-events/csv': ADMINISTRATORS,
  'GET /api/jobs': ALL,
  'GET /api/jobs/:id': ALL,
  'DELETE /api/jobs/:id': ALL,
  'POST /api/audit-events/:id/undo': ALL,
  'GET /api/lists': ALL,
  'POST /api/lists': ALL,
  'POST /api/lists/report': ALL,
  'GET /api/lists/:id': ALL,
  'GET /api/lists/:id/copy': ALL,
  'PUT /api/lists/:id': ALL,
  'DELETE /api/lists/:id': ALL,
  'POST /api/lists/:id/entries': ALL,
  'PUT /api/lists/:id/entries': ALL,
  'GET /api/lists/:id/file': ALL,
  'POST /api/lists/:id/file': ALL,
  'GET /api/entries': ALL,
  'POST /api/lists/:id/removals': ALL,
  'POST /api/lists/:id/assignments': ALL,
  'PUT /api/assignments/:id': ALL,
  'DELETE /api/assignments/:id': ALL,
  'GET /api/rules': ALL,
  'POST /api/rules': ALL,
  'GET /api/rules/:id': ALL,
  'PUT /api/rules/:id': ALL,
  'DELETE /api/rules/:id': ALL,
  'POST /api/rules/order': ALL,
  'POST /api/quarantines': ADMINISTRATORS,
  'PUT /api/quarantines/:id': ADMINISTRATORS,
  'DELETE /api/quarantines/:id': ADMINISTRATORS,
  'GET /api/phrase-sets': ALL,
  'POST /api/phrase-sets': ALL,
  'PUT /api/phrase-sets/:id': ALL,
  'GET /api/policy': ALL,
  'POST /api/dry-run': ALL,
  'POST /api/dry-run/send': ALL,
  'POST /api/imports': ADMINISTRATORS,
  'GET /api/settings': ADMINISTRATORS,
  'PUT /api/settings': ADMINISTRATORS,
  'POST /api/settings/tests': ADMINISTRATORS,
  'GET /api/settings/unverified': ADMINISTRATORS,
  'POST /api/settings/unverified': ADMINISTRATORS,
  'GET /api/users': ADMINISTRATORS,
  'POST /api/users': ADMINISTRATORS,
  'PUT /api/users/:id': ADMINISTRATORS,
  'POST /api/users/:id/invitations': ADMINISTRATORS,
  'GET /api/users/:id/deactivation': ADMINISTRATORS,
  'POST /api/users/:id/deactivation': ADMINISTRATORS,
  'GET /api/users/csv': ADMINISTRATORS,
  'POST /api/users/csv': ADMINISTRATORS,
}

const PATTERNS = Object.entries(ACCESS)
  .map(([route, roles]) => {
    const [method, path] = route.split(' ') as [string, string]
    return { route, method, roles, fixed: !path.includes(':'), parts: path.split('/') }
  })
  .sort((a, b) => Number(b.fixed) - Number(a.fixed))

/** A route, and who may call it. */
export interface Grant {
  /** As it stands in ACCESS. */
  route: string
  roles: readonly Role[] | typeof EVERYBODY
}

/** Which route a call is for, and who may make it; null where nothing of that name exists. @param path in its one spelling */
export function grantFor(method: string, path: string): Grant | null {
  const parts = path.split('/')
  return (
    PATTERNS.find(
      p =>
        p.method === method &&
        p.parts.length === parts.length &&
        p.parts.every((part, i) => (part.startsWith(':') ? parts[i] !== '' : part === parts[i])),
    ) ?? null
  )
}

/** True if the route that the router found is the one that was granted: its pattern, not what somebody wrote. */
export function isGranted(granted: unknown, method: string, pattern: string | undefined): boolean {
  return typeof granted === 'string' && granted === `${method} ${pattern}`
}
