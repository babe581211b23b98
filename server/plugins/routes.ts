import { handlers } from '#nitro-internal-virtual/server-handlers'
import { ACCESS } from '../access/routes'
import { writesWithoutVersion, type SeenVersion } from '../access/route-checks'

/** Ends the start where a route that writes does not say which version its caller saw, nor why it needs none. */
export default defineNitroPlugin(() => {
  // Whatever a module serves besides is granted to nobody.
  const routes = handlers
    .filter(({ method, route }) => `${method?.toUpperCase()} ${route}` in ACCESS)
    .map(({ method, route, handler }) => ({ method, route, version: (handler as { shapes?: { version?: SeenVersion } }).shapes?.version }))
  const forgotten = writesWithoutVersion(routes)
  if (forgotten.length) throw new Error(`These routes write, and name no version: ${forgotten.join(', ')}`)
})
