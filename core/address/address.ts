import { domainToAscii, domainToUnicode, registrableDomain } from './domain'

/** One mailbox as a header or an envelope names it. */
export interface Address {
  /** Display name, decoded; empty if there is none. */
  name: string
  /** Local part as written. */
  local: string
  /** Domain as lower-case A-labels; empty if the address has none. */
  domain: string
  /** The same domain for reading. */
  domainUnicode: string
  /** Registrable domain by the Public Suffix List, or null. */
  registrable: string | null
  /** The form in which addresses are compared: folded local part with any +tag, "@", A-labels. */
  key: string
  /** The same without a +tag (RFC 5233). */
  keyWithoutTag: string
}

const SEPARATOR = '+'

/** The local part as it is compared: NFC and case-folded. */
export function foldLocal(local: string): string {
  return local.normalize('NFC').toLowerCase()
}

/** The local part without its subaddress (RFC 5233: user "+" detail). A leading "+" is no separator. */
export function withoutTag(local: string): string {
  const at = local.indexOf(SEPARATOR, 1)
  return at < 0 ? local : local.slice(0, at)
}

/** True if the local part of an address carries a subaddress. */
export function hasTag(local: string): boolean {
  return withoutTag(local) !== local
}

/** Splits at the last "@" (a quoted local part may hold one, RFC 5321 4.1.2). */
export function splitAddress(text: string): { local: string, domain: string } {
  const at = text.lastIndexOf('@')
  if (at < 0) return { local: text, domain: '' }
  return { local: unquote(text.slice(0, at)), domain: text.slice(at + 1) }
}

function unquote(local: string): string {
  return local.length > 1 && local.startsWith('"') && local.endsWith('"') ? local.slice(1, -1).replace(/\\(.)/gs, '$1') : local
}

function withoutBrackets(text: string): string {
  return text.startsWith('<') && text.endsWith('>') ? text.slice(1, -1) : text
}

/** Builds an Address from its text and its display name. Never fails: what is no domain stays as lower-case text. */
export function makeAddress(text: string, name = ''): Address {
  const { local, domain: raw } = splitAddress(withoutBrackets(text.trim()))
  const domain = raw ? domainToAscii(raw) ?? raw.toLowerCase().replace(/^\s+/, '').slice(0, 1000) : ''
  const folded = foldLocal(local)
  return {
    name,
    local,
    domain,
    domainUnicode: domainToUnicode(domain),
    registrable: domain ? registrableDomain(domain) : null,
    key: `${folded}@${domain}`,
    keyWithoutTag: `${withoutTag(folded)}@${domain}`,
  }
}
