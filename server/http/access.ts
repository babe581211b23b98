import type { Role } from '../services/people'

export const EVERYBODY = 'everybody'
const ALL: readonly Role[] = ['administrator', 'reviewer', 'worker']
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
  'GET /api/setup': EVERYBODY,
  'POST /api/setup': EVERYBODY,
  'GET /api/directory': ALL,
  'GET /api/copies': ALL,
  'GET /api/copies/count': ALL,
  'GET /api/copies/:id': ALL,
  'GET /api/copies/:id/source': ALL,
  'POST /api/copies/lane': ALL,
  'POST /api/copies/judgement': ALL,
  'POST /api/acts/:id/undo': ALL,
  'GET /api/lists': ALL,
  'POST /api/lists': ALL,
  'GET /api/lists/:id': ALL,
  'PUT /api/lists/:id': ALL,
  'DELETE /api/lists/:id': ALL,
  'POST /api/lists/:id/entries': ALL,
  'PUT /api/lists/:id/entries': ALL,
  'POST /api/lists/:id/removals': ALL,
  'POST /api/lists/:id/bindings': ALL,
  'PUT /api/bindings/:id': ALL,
  'DELETE /api/bindings/:id': ALL,
  'GET /api/rules': ALL,
  'POST /api/rules': ALL,
  'GET /api/rules/:id': ALL,
  'PUT /api/rules/:id': ALL,
  'DELETE /api/rules/:id': ALL,
  'POST /api/rules/order': ALL,
  'POST /api/quarantines': ADMINISTRATORS,
  'GET /api/phrase-sets': ALL,
  'POST /api/phrase-sets': ALL,
  'PUT /api/phrase-sets/:id': ALL,
  'GET /api/policy': ALL,
  'POST /api/try': ALL,
  'POST /api/imports': ADMINISTRATORS,
}

const PATTERNS = Object.entries(ACCESS)
  .map(([route, roles]) => {
    const [method, path] = route.split(' ') as [string, string]
    return { method, roles, fixed: !path.includes(':'), pattern: new RegExp(`^${path.replace(/:\w+/g, '[^/]+')}$`) }
  })
  .sort((a, b) => Number(b.fixed) - Number(a.fixed))

/** Who may call that; null where nothing of that name exists. */
export function rolesFor(method: string, path: string): readonly Role[] | typeof EVERYBODY | null {
  const asked = method === 'HEAD' ? 'GET' : method
  return PATTERNS.find(p => p.method === asked && p.pattern.test(path))?.roles ?? null
}
