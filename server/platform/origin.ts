import type { IncomingHttpHeaders } from 'node:http'

/**
 * True where a page of somebody else's made a browser send this. Browsers say so in Sec-Fetch-Site (W3C Fetch Metadata) or,
 * the older ones and those on plain HTTP, in Origin (RFC 6454 7); what is no browser sends neither and has no cookie to misuse.
 */
export function isCrossOrigin(method: string, headers: IncomingHttpHeaders): boolean {
  const site = headers['sec-fetch-site']
  // "none" is somebody who typed the address; nobody types a change.
  if (site !== undefined) return site !== 'same-origin' && !(site === 'none' && method === 'GET')
  const { origin, host } = headers
  if (origin === undefined) return false
  try {
    return new URL(origin).host !== host
  }
  catch {
    return true // "null", or no origin at all
  }
}
