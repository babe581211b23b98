/** A copy that a clause stopped, as far as it matters for what its judgement would say. */
export interface Unheard {
  id: number
  sender: string
  marked: boolean
}

/**
 * The copies whose judgement would say most about the clause that stopped them: one each of the senders of whose mail nobody has
 * marked any, those first that have most of it. A judgement speaks for its siblings, and twice the same sender says little more.
 * @param copies all that it stopped, the newest first
 */
export function mostInformative(copies: readonly Unheard[], most = 5): number[] {
  const senders = new Map<string, { first: number | null, copies: number, marked: boolean }>()
  for (const { id, sender, marked } of copies) {
    const seen = senders.get(sender) ?? { first: null, copies: 0, marked: false }
    seen.copies++
    seen.marked ||= marked
    if (!marked) seen.first ??= id
    senders.set(sender, seen)
  }
  return [...senders.values()]
    .filter(s => s.first !== null)
    .sort((a, b) => Number(a.marked) - Number(b.marked) || b.copies - a.copies)
    .slice(0, most)
    .map(s => s.first!)
}
