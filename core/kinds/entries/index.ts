import { withoutTag, type Address } from '../../address'
import { address } from './address'
import { contains } from './contains'
import { domain } from './domain'
import { domainAndSubdomains } from './domain-and-subdomains'
import { everyone } from './everyone'
import type { EntryError, EntryKindOf, EntrySubject } from './kind'
import { mailingListEntry } from './mailing-list'
import { network } from './network'
import { pattern } from './pattern'
import { entryKindFromVersion1 } from './version-1'
import { signedBy } from './signed-by'
import { words } from './words'

/** Every kind of entry, in the order in which they are offered. A new one is added here and in its own file. */
const KINDS = {
  address: address,
  domain: domain,
  domainAndSubdomains: domainAndSubdomains,
  pattern: pattern,
  words: words,
  contains: contains,
  mailingList: mailingListEntry,
  signedBy: signedBy,
  network: network,
  everyone: everyone,
} as const

export type EntryKind = keyof typeof KINDS
export type EntryText = { kind: EntryKind, value: string }

export const ENTRY_KINDS = Object.keys(KINDS) as EntryKind[]
/** Those that look at one address of a message. */
export const ADDRESS_KINDS = ENTRY_KINDS.filter(k => KINDS[k].of === 'address')

for (const name of ENTRY_KINDS)
  if (KINDS[name].name !== name) throw new Error(`The kind of entry “${KINDS[name].name}” is registered as “${name}”.`)

/** By what an entry is the same as another of its list: its kind and its canonical value. */
export function entryKey({ kind, value }: { kind: string, value: string }): string {
  return `${kind} ${value}`
}

/** The kind of a name: as in JSON, as in a line of a list, or as in a file of an earlier version. */
export function entryKindNamed(name: string): EntryKind | undefined {
  return ENTRY_KINDS.find(kind => kind === name || KINDS[kind].line === name) ?? entryKindFromVersion1(name)
}

/** What is known of a kind of entry. */
export function entryKindOf(kind: EntryKind): EntryKindOf<EntryKind> {
  return KINDS[kind]
}

/**
 * The canonical value of an entry: domains as lower-case A-labels, local parts folded, a +tag kept because somebody
 * wrote it (RFC 5233).
 */
export function canonicalEntry(kind: EntryKind, text: string): EntryText | EntryError {
  const bare = text.trim()
  if (!bare && kind !== 'everyone')
    return { error: 'Enter an address such as name@quayline.example, or a domain such as quayline.example.' }
  const value = KINDS[kind].canonical(bare)
  return typeof value === 'string' ? { kind, value } : value
}

/** No address (RFC 5321 4.5.3.1) and no name beside it is longer. */
const LONGEST_LINE = 1000
/** Which kind a line is asked first. */
const READ_AS: readonly EntryKind[] = ['everyone', 'network', 'domainAndSubdomains', 'pattern', 'domain', 'address']

/**
 * What a pasted line means: "@domain" or "domain" is a domain (with what lies below it if `below`), "*.domain" a domain
 * and below, "name@domain" or "Name <name@domain>" an address, what holds * or ? a pattern, "192.0.2.0/24" a network, "everyone" everyone.
 * A line may begin with the name of its kind: "mailing list: news.regatta-society.example", "words: chandlers".
 * @param as what every line is taken for, instead of going by its look
 */
export function readEntryLine(line: string, below = false, as?: EntryKind): EntryText | EntryError {
  if (line.length > LONGEST_LINE)
    return { error: `This line has ${line.length} characters; an entry has at most ${LONGEST_LINE}. Write one address or domain per line.` }
  if (as !== undefined) return canonicalEntry(as, line)
  const named = line.trimStart()
  const colon = named.indexOf(': ')
  const kind = colon < 0 ? undefined : entryKindNamed(named.slice(0, colon))
  if (kind) return canonicalEntry(kind, named.slice(colon + 2))
  const bare = /<([^<>]+)>\s*$/.exec(line)?.[1] ?? linkless(line.trim()).replace(/[;,]$/, '')
  return canonicalEntry(READ_AS.find(kind => KINDS[kind].looksLike(bare, below)) ?? 'address', bare)
}

// Copied as the target of a link (RFC 6068), with or without a subject.
function linkless(text: string): string {
  return /^mailto:/i.test(text) ? text.slice('mailto:'.length).split('?', 1)[0]! : text
}

/** True if an entry catches a sender. */
export function entryCatches({ kind, value }: EntryText, subject: EntrySubject): boolean {
  return KINDS[kind].catches(value, subject)
}

/** As a person would say it. */
export function entryWords({ kind, value }: EntryText): string {
  return KINDS[kind].words(value)
}

/** The more specific entry first. A smaller number comes first. */
export function specificity({ kind, value }: EntryText): [number, number] {
  return [KINDS[kind].rank, KINDS[kind].within(value)]
}

/** Keys under which an address is found among messages: "address:…", "domain:…", "below:…". */
export function senderKeys({ key, domain }: Address): string[] {
  if (!domain) return [`address:${key}`]
  const labels = domain.split('.')
  return [
    ...new Set([`address:${key}`, `address:${withoutTag(key.slice(0, key.lastIndexOf('@')))}@${domain}`]),
    `domain:${domain}`,
    ...labels.map((_, i) => `below:${labels.slice(i).join('.')}`),
  ]
}

export type { EntryError, EntrySubject } from './kind'
export { senderText } from './words'
