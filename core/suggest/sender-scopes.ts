import { registrableDomain } from '../address'
import type { EntryText } from '../kinds'
import type { Content } from '../message'

/** How widely a sender is taken. */
export const WIDTHS = ['address', 'mailing list', 'domain', 'domain and below'] as const
export type WidthKind = (typeof WIDTHS)[number]

/** One way to take the senders of examples. */
export interface Width {
  kind: WidthKind
  entries: EntryText[]
  /** So many of the examples it catches. */
  catches: number
}

const MOST_ENTRIES = 20

/** The ways to take the senders of examples, the narrowest first. What would need more than twenty entries is none. */
export function widthsOf(examples: readonly Pick<Content, 'from' | 'list'>[]): Width[] {
  const values: Record<WidthKind, (content: Pick<Content, 'from' | 'list'>) => string | null> = {
    'address': ({ from: [from] }) => from?.keyWithoutTag ?? null,
    'mailing list': ({ list }) => list.id,
    'domain': ({ from: [from] }) => from?.domain || null,
    'domain and below': ({ from: [from] }) => (from?.domain ? (registrableDomain(from.domain) ?? from.domain) : null),
  }
  return WIDTHS.flatMap((kind): Width[] => {
    const found = examples.map(values[kind]).filter(v => v !== null && v !== '@')
    const distinct = [...new Set(found as string[])]
    if (!distinct.length || distinct.length > MOST_ENTRIES) return []
    return [{ kind, entries: distinct.map(value => ({ kind, value })), catches: found.length }]
  })
}

/** Which of the widths is meant where nothing is said: the narrowest by one entry that catches all, else the narrowest that does. */
export function presetOf(widths: readonly Width[], examples: number): number {
  const all = (w: Width) => w.catches === examples
  const one = widths.findIndex(w => w.entries.length === 1 && all(w))
  return Math.max(0, one >= 0 ? one : widths.findIndex(all))
}
