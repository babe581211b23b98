import { domainToAscii, foldLocal, hasTag, splitAddress, withoutTag, type Address } from '../address'
import { canonicalNetwork, inNetwork } from '../message'
import { findKey, phraseKeys, viewOf, viewText } from '../text'
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
  if (!bare)
    return { error: 'Nothing is written here. Write an address such as name@quayline.example, or a domain such as quayline.example.' }
  if (kind === 'address') {
    const { local, domain } = splitAddress(bare)
    const ascii = domainToAscii(domain)
    if (!local || !ascii || /[\s<>]/.test(local)) return { error: `“${short(bare)}” is not a whole address. Write it as name@domain.` }
    return { kind, value: `${foldLocal(local)}@${ascii}` }
  }
  if (kind === 'pattern') {
    if (!/[*?]/.test(bare) || /\s/.test(bare))
      return { error: `“${short(bare)}” is not a pattern. Write it with * or ? over the whole address, such as *@*.quayline.example.` }
    return { kind, value: foldLocal(bare) }
  }
  if (kind === 'words') return { kind, value: bare.replace(/\s+/gu, ' ') }
  if (kind === 'mailing list') {
    const id = (/<([^<>]*)>/.exec(bare)?.[1] ?? bare).replace(/\s+/g, '').toLowerCase()
    return id ? { kind, value: id } : { error: 'Write the List-Id, such as news.regatta-society.example.' }
  }
  if (kind === 'network') {
    const network = canonicalNetwork(bare)
    return network ? { kind, value: network } : { error: `“${short(bare)}” is not a network. Write it as 192.0.2.0/24 or 2001:db8::/32.` }
  }
  const ascii = domainToAscii(bare.replace(/^@/, '').replace(/^\*?\./, ''))
  if (!ascii || bare.slice(1).includes('@')) return { error: `“${short(bare)}” is not a domain. Write it as quayline.example.` }
  return { kind, value: ascii }
}

/** No address (RFC 5321 4.5.3.1) and no name beside it is longer. */
const LONGEST_LINE = 1000

/**
 * What a pasted line means: "@domain" or "domain" is a domain (with what lies below it if `below`), "*.domain" a domain
 * and below, "name@domain" or "Name <name@domain>" an address, what holds * or ? a pattern, "192.0.2.0/24" a network, "everyone" everyone.
 * @param as what every line is taken for, instead of going by its look
 */
export function readEntryLine(line: string, below = false, as?: EntryKind): EntryText | EntryError {
  if (line.length > LONGEST_LINE)
    return { error: `This line has ${line.length} characters; an entry has ${LONGEST_LINE} at most. Write one address or domain a line.` }
  if (as !== undefined) return canonicalEntry(as, line)
  const bare =
    /<([^<>]+)>\s*$/.exec(line)?.[1] ??
    line
      .trim()
      .replace(/^mailto:/i, '')
      .replace(/[;,]$/, '')
  if (/^everyone$/i.test(bare)) return canonicalEntry('everyone', '')
  if (/^[0-9a-f:.]+\/\d{1,3}$/i.test(bare)) return canonicalEntry('network', bare)
  if (/^\*?\.[^@*?]+$/.test(bare)) return canonicalEntry('domain and below', bare)
  if (/[*?]/.test(bare)) return canonicalEntry('pattern', bare)
  if (bare.startsWith('@') || !bare.includes('@')) return canonicalEntry(below ? 'domain and below' : 'domain', bare)
  return canonicalEntry('address', bare)
}

/** What of a sender an entry may look at. */
export interface EntrySubject {
  address: Address
  /** List-Id of the message, or null. */
  listId: string | null
  /** Client address, or null. */
  client: string | null
}

/** True if an entry catches a sender. An address entry without a +tag catches the address with any. */
export function entryCatches(entry: EntryText, { address, listId, client }: EntrySubject): boolean {
  switch (entry.kind) {
    case 'everyone':
      return true
    case 'domain':
      return address.domain === entry.value
    case 'domain and below':
      return address.domain === entry.value || address.domain.endsWith(`.${entry.value}`)
    case 'address': {
      const { local } = splitAddress(entry.value)
      return hasTag(local) ? address.key === entry.value : address.keyWithoutTag === entry.value
    }
    case 'pattern':
      return matchesWildcard(entry.value, address.key)
    case 'words':
      return hasWords(entry.value, address)
    case 'mailing list':
      return listId === entry.value
    case 'network':
      return client !== null && inNetwork(client, entry.value)
  }
}

function hasWords(words: string, address: Address): boolean {
  const text = senderText(address)
  const view = viewOf(text, 'plain')
  return phraseKeys(words, 'plain').some(key => findKey(view, viewText(view), key, true, 1).length > 0)
}

/** The text in which words of a sender are sought: the name, then the address. */
export function senderText(address: Address): string {
  return `${address.name}\n${address.local}@${address.domainUnicode}`
}

/** True if a text is the pattern throughout; * stands for any run, ? for one character. Linear in practice: no backtracking beyond the last star. */
export function matchesWildcard(pattern: string, text: string): boolean {
  let p = 0
  let t = 0
  let star = -1
  let mark = 0
  while (t < text.length) {
    if (p < pattern.length && pattern[p] === '*') {
      star = p++
      mark = t
    }
    else if (p < pattern.length && (pattern[p] === '?' || pattern[p] === text[t])) {
      p++
      t++
    }
    else if (star >= 0) {
      p = star + 1
      t = ++mark
    }
    else {
      return false
    }
  }
  while (pattern[p] === '*') p++
  return p === pattern.length
}

/** True if a pattern's domain is open, so that its sender cannot be verified: something wild after the "@", or no "@". */
export function hasOpenDomain(pattern: string): boolean {
  const at = pattern.lastIndexOf('@')
  return at < 0 || /[*?]/.test(pattern.slice(at + 1))
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
 * The more specific entry first: address, mailing list, domain, domain and below (longer first), pattern (more literal
 * characters first), words, network (longer prefix first), everyone. A smaller number comes first.
 */
export function specificity(entry: EntryText): [number, number] {
  switch (entry.kind) {
    case 'address':
      return [0, 0]
    case 'mailing list':
      return [1, 0]
    case 'domain':
      return [2, 0]
    case 'domain and below':
      return [3, -entry.value.split('.').length]
    case 'pattern':
      return [4, -entry.value.replace(/[*?]/g, '').length]
    case 'words':
      return [5, 0]
    case 'network':
      return [6, -Number(entry.value.split('/')[1])]
    case 'everyone':
      return [7, 0]
  }
}

function short(text: string): string {
  return text.length > 60 ? `${text.slice(0, 57)}…` : text
}
