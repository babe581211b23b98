import { domainToAscii, domainToUnicode, registrableDomain } from '../address'

/** Longer texts name no address; they are read in vain. */
const MAX_TEXT = 2000
// Browsers take a backslash for a slash (URL Standard).
const ENDS_AN_AUTHORITY = /[/?#\\]/

/**
 * Where a link really leads, if its text names another place: "bank.example" over a link to evil.example. The registrable
 * domains are compared, so that "www." in one of them makes no difference.
 * @param text what a reader sees of the link
 * @param target its href
 * @returns the host, or the address of a mailto link, for reading; null where the text names no place, or the same
 */
export function trueTarget(text: string, target: string): string | null {
  const led = placeOf(target)
  if (!led) return null
  const named = text
    .slice(0, MAX_TEXT)
    .split(/[\s<>"'()[\]]+/)
    .map(namedDomain)
    .filter(d => d !== null)
  return named.length && !named.includes(baseOf(led.domain)) ? led.shown : null
}

function placeOf(target: string): { domain: string, shown: string } | null {
  let url: URL
  try {
    url = new URL(target)
  }
  catch {
    return null
  }
  if (url.protocol === 'mailto:') {
    const at = url.pathname.lastIndexOf('@')
    const domain = at < 0 ? null : domainToAscii(url.pathname.slice(at + 1))
    return domain === null ? null : { domain, shown: `${url.pathname.slice(0, at)}@${domainToUnicode(domain)}` }
  }
  // What stands before an "@" in a URL is no host (RFC 3986 3.2.1), and often looks like one.
  return url.hostname ? { domain: url.hostname, shown: domainToUnicode(url.hostname) } : null
}

// The domain that a word names, whether as "bank.example", "https://bank.example/login" or "someone@bank.example".
function namedDomain(word: string): string | null {
  const scheme = word.indexOf('://')
  const rest = scheme < 0 ? word : word.slice(scheme + 3)
  const authority = rest.split(ENDS_AN_AUTHORITY, 1)[0]!
  const host = authority
    .slice(authority.lastIndexOf('@') + 1)
    .split(':', 1)[0]!
    .replace(/[.,;!]{1,3}$/, '')
  if (!host.includes('.')) return null
  const ascii = domainToAscii(host)
  // No top-level domain is a number (RFC 3696 2): "2.0" is a version.
  return ascii === null || /(?:^|\.)\d+$/.test(ascii) || registrableDomain(ascii) === null ? null : baseOf(ascii)
}

function baseOf(domain: string): string {
  return registrableDomain(domain) ?? domain
}
