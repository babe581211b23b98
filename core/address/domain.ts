import { toASCII, toUnicode } from 'tr46'
import { getDomain } from 'tldts'

/**
 * The A-label form of a domain, lower case, without a trailing dot (UTS #46, non-transitional).
 * @returns the A-labels, or null where the text is no domain by UTS #46 or is longer than RFC 1035 allows.
 */
export function domainToAscii(domain: string): string | null {
  const bare = domain.trim().replace(/\.$/, '')
  if (!bare || bare.length > 1000) return null
  if (/^\[.*\]$/.test(bare)) return bare.toLowerCase() // an address literal (RFC 5321 4.1.3)
  const ascii = toASCII(bare, { checkHyphens: false, checkBidi: true, checkJoiners: true, useSTD3ASCIIRules: false, transitionalProcessing: false, verifyDNSLength: true })
  return ascii && !/[\s@<>"(),:;\\]/.test(ascii) ? ascii : null
}

/** The Unicode form of a domain, for reading (UTS #46). */
export function domainToUnicode(domain: string): string {
  return toUnicode(domain, { checkHyphens: false, useSTD3ASCIIRules: false }).domain
}

/**
 * The registrable domain by the Public Suffix List, private section included (publicsuffix.org); null for a
 * public suffix itself, an IP address or an address literal.
 */
export function registrableDomain(domain: string): string | null {
  return getDomain(domain, { allowPrivateDomains: true })
}

/** The domain and every domain above it, longest first: a.b.example, b.example, example. */
export function domainAndAbove(domain: string): string[] {
  const labels = domain.split('.')
  return labels.map((_, i) => labels.slice(i).join('.'))
}

/** True if `domain` is `top` or lies below it. Both as lower-case A-labels. */
export function isAtOrBelow(domain: string, top: string): boolean {
  return domain === top || domain.endsWith(`.${top}`)
}
