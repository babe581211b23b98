import { toASCII, toUnicode } from 'tr46'
import { getDomain } from 'tldts'

/** Most domains: lower-case letters, digits and inner hyphens, whose A-labels they are themselves. */
const PLAIN = /^(?:[a-z0-9][a-z0-9-]{0,61}[a-z0-9]\.|[a-z0-9]\.){1,20}[a-z][a-z0-9-]{0,61}[a-z0-9]$/

// The root that a domain may end in (RFC 1034 3.1) is no part of it, nor are dots too many.
function withoutFinalDots(domain: string): string {
  let end = domain.length
  while (end > 0 && domain[end - 1] === '.') end--
  return domain.slice(0, end)
}

/**
 * The A-label form of a domain, lower case, without a trailing dot (UTS #46, non-transitional).
 * @returns the A-labels, or null where the text is no domain by UTS #46 or is longer than RFC 1035 allows.
 */
export function domainToAscii(domain: string): string | null {
  if (PLAIN.test(domain) && domain.length <= 253 && !domain.includes('xn--')) return domain
  const bare = withoutFinalDots(domain.trim())
  if (!bare || bare.length > 1000) return null
  if (/^\[.*\]$/.test(bare)) return bare.toLowerCase() // an address literal (RFC 5321 4.1.3)
  const ascii = toASCII(bare, {
    checkHyphens: false,
    checkBidi: true,
    checkJoiners: true,
    useSTD3ASCIIRules: false,
    transitionalProcessing: false,
    verifyDNSLength: true,
  })
  return ascii && !/[\s\p{Cc}@<>"(),:;\\]/u.test(ascii) ? ascii : null
}

/** The Unicode form of a domain, for reading (UTS #46). */
export function domainToUnicode(domain: string): string {
  if (PLAIN.test(domain) && !domain.includes('xn--')) return domain
  return toUnicode(domain, { checkHyphens: false, useSTD3ASCIIRules: false }).domain
}

/** What was asked before; the same few domains write most mail. */
const registrables = new Map<string, string | null>()
const MAX_KNOWN = 5000

/**
 * The registrable domain by the Public Suffix List, private section included (publicsuffix.org); null for a
 * public suffix itself, an IP address or an address literal.
 */
export function registrableDomain(domain: string): string | null {
  const known = registrables.get(domain)
  if (known !== undefined) return known
  const found = getDomain(domain, { allowPrivateDomains: true })
  if (registrables.size >= MAX_KNOWN) registrables.clear()
  registrables.set(domain, found)
  return found
}

/** True if `domain` is `top` or lies below it. Both as lower-case A-labels. */
export function isAtOrBelow(domain: string, top: string): boolean {
  return domain === top || domain.endsWith(`.${top}`)
}

/** Letters, digits and inner hyphens in every label (RFC 1123 2.1). */
const HOST_LABEL = /^[a-z0-9](?:[a-z0-9-]{0,61}[a-z0-9])?$/

/** True for a domain that mail can be for: a name that somebody can have, no suffix of the public, no address. As A-labels. */
export function isMailDomain(domain: string): boolean {
  return domain.split('.').every(label => HOST_LABEL.test(label)) && registrableDomain(domain) !== null
}
