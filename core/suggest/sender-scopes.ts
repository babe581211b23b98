import { registrableDomain } from '../address'
import type { EntryText } from '../kinds'
import type { Content } from '../message'

/** How widely a sender is taken. */
export const SENDER_SCOPES = ['address', 'mailingList', 'domain', 'domainAndSubdomains', 'signedBy'] as const
export type SenderScopeKind = (typeof SENDER_SCOPES)[number]

/** One way to take the senders of examples. */
export interface SenderScope {
  kind: SenderScopeKind
  entries: EntryText[]
  /** So many of the examples it catches. */
  catches: number
}

const MAX_ENTRIES = 200

/** What of an example its sender is taken by. */
type Example = Pick<Content, 'from' | 'list'> & {
  /** Domains whose signatures passed, where that is known. */
  signers?: readonly string[]
}

/** The ways to take the senders of examples, the narrowest first. What would need more than two hundred entries is none. */
export function senderScopesOf(examples: readonly Example[]): SenderScope[] {
  const values: Record<SenderScopeKind, (example: Example) => string | null> = {
    address: ({ from: [from] }) => from?.keyWithoutTag ?? null,
    mailingList: ({ list }) => list.id,
    domain: ({ from: [from] }) => from?.domain || null,
    domainAndSubdomains: ({ from: [from] }) => (from?.domain ? (registrableDomain(from.domain) ?? from.domain) : null),
    // What the domain in From signed itself is taken by that domain.
    signedBy: ({ from: [from], signers }) => signers?.find(domain => domain !== from?.domain) ?? null,
  }
  return SENDER_SCOPES.flatMap((kind): SenderScope[] => {
    const found = examples.map(values[kind]).filter(v => v !== null && v !== '@')
    const distinct = [...new Set(found as string[])]
    if (!distinct.length || distinct.length > MAX_ENTRIES) return []
    return [{ kind, entries: distinct.map(value => ({ kind, value })), catches: found.length }]
  })
}

/** Fewer examples are no flood. */
const FLOOD = 5
/** Messages of one address, on average, where senders change: of more, one would block the addresses. */
const MAX_EACH = 2

/**
 * Whether examples come from changing senders: many of them, with one or two from each address and from each domain. To block these
 * addresses would not stop the next message.
 */
export function isFlood(scopes: readonly SenderScope[], examples: number): boolean {
  const few = (kind: SenderScopeKind) => {
    const scope = scopes.find(s => s.kind === kind)
    return !scope || scope.entries.length * MAX_EACH >= scope.catches
  }
  return examples >= FLOOD && !scopes.some(s => s.catches === examples && s.entries.length * MAX_EACH < s.catches)
    && few('address') && few('domainAndSubdomains')
}

/** Which of the widths is meant where nothing is said: the narrowest by one entry that catches all, else the narrowest that does. */
export function presetOf(scopes: readonly SenderScope[], examples: number): number {
  const all = (w: SenderScope) => w.catches === examples
  const one = scopes.findIndex(w => w.entries.length === 1 && all(w))
  return Math.max(0, one >= 0 ? one : scopes.findIndex(all))
}
