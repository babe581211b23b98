import { domainToAscii, foldLocal, hasTag, splitAddress, withoutTag, type Address } from '../address'
import type { EntryKind } from './types'

export type EntryText = { kind: EntryKind, value: string }
export type EntryError = { error: string }

/**
 * The canonical value of an entry: domains as lower-case A-labels, local parts folded, a +tag kept because somebody
 * wrote it (RFC 5233).
 */
export function canonicalEntry(kind: EntryKind, text: string): EntryText | EntryError {
  const bare = text.trim()
  if (kind === 'everyone') return { kind, value: '' }
  if (!bare) return { error: 'Nothing is written here. Write an address such as name@quayline.example, or a domain such as quayline.example.' }
  if (kind === 'address') {
    const { local, domain } = splitAddress(bare)
    const ascii = domainToAscii(domain)
    if (!local || !ascii || /[\s<>]/.test(local)) return { error: `“${short(bare)}” is not a whole address. Write it as name@domain.` }
    return { kind, value: `${foldLocal(local)}@${ascii}` }
  }
  const ascii = domainToAscii(bare.replace(/^@/, '').replace(/^\*?\./, ''))
  if (!ascii || bare.slice(1).includes('@')) return { error: `“${short(bare)}” is not a domain. Write it as quayline.example.` }
  return { kind, value: ascii }
}

/**
 * What a pasted line means: "@domain" or "domain" is a domain (with what lies below it if `below`), "*.domain" a domain
 * and below, "name@domain" or "Name <name@domain>" an address.
 */
export function readEntryLine(line: string, below = false): EntryText | EntryError {
  const bare = /<([^<>]+)>\s*$/.exec(line)?.[1] ?? line.trim().replace(/^mailto:/i, '').replace(/[;,]$/, '')
  if (/^\*?\.[^@]+$/.test(bare)) return canonicalEntry('domain and below', bare)
  if (bare.startsWith('@') || !bare.includes('@')) return canonicalEntry(below ? 'domain and below' : 'domain', bare)
  return canonicalEntry('address', bare)
}

/** True if an entry catches an address. An entry without a +tag catches the address with any. */
export function entryCatches(entry: EntryText, address: Address): boolean {
  switch (entry.kind) {
    case 'everyone': return true
    case 'domain': return address.domain === entry.value
    case 'domain and below': return address.domain === entry.value || address.domain.endsWith(`.${entry.value}`)
    case 'address': {
      const { local } = splitAddress(entry.value)
      return hasTag(local) ? address.key === entry.value : address.keyWithoutTag === entry.value
    }
  }
}

/** Keys under which an address is found in an index of entries: "address:…", "domain:…", "below:…". */
export function senderKeys(address: Address): string[] {
  if (!address.domain) return [`address:${address.key}`]
  const labels = address.domain.split('.')
  return [
    ...new Set([`address:${address.key}`, `address:${withoutTag(address.key.slice(0, address.key.lastIndexOf('@')))}@${address.domain}`]),
    `domain:${address.domain}`,
    ...labels.map((_, i) => `below:${labels.slice(i).join('.')}`),
  ]
}

/**
 * The more specific entry first: address, domain, domain and below (longer first), everyone. A smaller number comes
 * first; within a kind the longer domain.
 */
export function specificity(entry: EntryText): [number, number] {
  switch (entry.kind) {
    case 'address': return [0, 0]
    case 'domain': return [2, 0]
    case 'domain and below': return [3, -entry.value.split('.').length]
    case 'everyone': return [7, 0]
  }
}

function short(text: string): string {
  return text.length > 60 ? `${text.slice(0, 57)}…` : text
}
