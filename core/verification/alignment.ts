import { registrableDomain } from '../address'

export type Alignment = 'strict' | 'relaxed'

/** Whether a domain that passed is aligned with the From domain (RFC 7489 3.1). Both as A-labels. */
export function isAligned(domain: string | null, fromDomain: string | null, mode: Alignment): boolean {
  if (!domain || !fromDomain) return false
  if (domain === fromDomain) return true
  return mode === 'relaxed' && organisationalDomain(domain) === organisationalDomain(fromDomain)
}

/** RFC 7489 3.2, by the Public Suffix List; a public suffix is its own. */
export function organisationalDomain(domain: string): string {
  return registrableDomain(domain) ?? domain
}
