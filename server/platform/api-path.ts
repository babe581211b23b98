// Names, numbers and ids, as the policy's schema has them, between single slashes.
const PATH = /^\/api(?:\/[\w.~:-]{1,80})+$/
const MAX_DECODINGS = 5

/**
 * The path of a request below /api, in the one spelling in which routes are granted.
 *
 * The router decodes a path before it looks it up; whoever marks it undecoded marks another path than the one that runs.
 * So there is one spelling only: whatever could come out as a path below /api once it is decoded, joined, or put into small
 * letters, and is not spelt so already, is `odd` and nothing is found there.
 * @param target the request's target as it was sent (RFC 9112 3.2)
 * @returns null where the request is for something else than the API
 */
export function apiPath(target: string): { path: string } | 'odd' | null {
  const path = target.split(/[?#]/, 1)[0]!
  if (PATH.test(path) && !path.split('/').some(part => part === '.' || part === '..')) return { path }
  return couldBeApi(path) ? 'odd' : null
}

function couldBeApi(path: string): boolean {
  let plain = path
  for (let i = 0; i < MAX_DECODINGS; i++) {
    const decoded = plain.replace(/%([\da-f]{2})/gi, (_, hex: string) => String.fromCharCode(Number.parseInt(hex, 16)))
    if (decoded === plain) break
    plain = decoded
  }
  // Wherever it stands: "/x/../api/", "//api", "http://host/api", "\api".
  return /(?:^|[/\\])api(?:[/\\]|$)/i.test(plain)
}
