import { addTo } from '../add-to'
import type { FixKind } from './types'
import type { Caused } from './causes'

/** Some of a group of copies that went wrong, and what may be changed to put just these right. */
export interface Part {
  copies: Caused[]
  by: 'sender' | 'clause'
}

/** Whether a kind of fix is about senders, or about what of a clause was the cause. */
export function isOf(by: Part['by'], kind: FixKind): boolean {
  return (by === 'sender') === (kind.startsWith('sender: ') || kind.startsWith('exception: '))
}

/** Parts of one kind that are looked at, the largest first. */
const MAX_PARTS = 12

/**
 * The parts of a group that have something in common which the whole has not: an address, a mailing list, a domain, what was the cause, or
 * the phrase that was found.
 */
export function partsOf(wrong: readonly Caused[]): Part[] {
  if (wrong.length < 2) return []
  const content = ({ message }: Caused) => message.content
  return [
    ...parts(wrong, c => content(c).from[0]?.keyWithoutTag, 'sender'),
    ...parts(wrong, c => content(c).list.id ?? undefined, 'sender'),
    ...parts(wrong, c => content(c).from[0]?.domain, 'sender'),
    ...parts(wrong, causeOf, 'clause'),
    ...parts(wrong, phraseOf, 'clause'),
  ].sort((a, b) => b.copies.length - a.copies.length)
}

function parts(wrong: readonly Caused[], keyOf: (copy: Caused) => string | undefined, by: Part['by']): Part[] {
  const found = new Map<string, Caused[]>()
  for (const copy of wrong) {
    const key = keyOf(copy)
    if (key) addTo(found, key, copy)
  }
  // What all have in common is looked at as a whole.
  return [...found.values()]
    .filter(copies => copies.length < wrong.length)
    .sort((a, b) => b.length - a.length)
    .slice(0, MAX_PARTS)
    .map(copies => ({ copies, by }))
}

function causeOf({ sets: [first] }: Caused): string | undefined {
  return first?.map(c => `${c.kind} ${c.id}${c.entry ? ` ${c.entry.id}` : ''}`).sort().join('\n')
}

function phraseOf({ decision: { reasons } }: Caused): string | undefined {
  for (const { evidence, outcome } of reasons) {
    const phrase = outcome.kind === 'decided' ? evidence.find(e => e.kind === 'phrase') : undefined
    if (phrase) return phrase.phrase
  }
  return undefined
}
