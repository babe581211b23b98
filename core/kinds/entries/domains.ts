import { domainToAscii } from '../../address'
import { short, type EntryError } from './kind'

/** A domain without what may stand before it, as lower-case A-labels. */
export function canonicalDomain(text: string): string | EntryError {
  const ascii = domainToAscii(text.replace(/^@/, '').replace(/^\*?\./, ''))
  return !ascii || text.slice(1).includes('@') ? { error: `“${short(text)}” is not a domain. Write it as quayline.example.` } : ascii
}

/** The entries “domain and below” that catch a domain, the domain itself first. */
export function belowAll(domain: string): { kind: string, value: string }[] {
  const labels = domain.split('.')
  return labels.map((_, i) => ({ kind: 'domainAndSubdomains', value: labels.slice(i).join('.') }))
}
