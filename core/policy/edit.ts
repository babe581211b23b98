import { groupMembers, phraseText, type Condition, type PhraseItem } from './types'

/**
 * A condition with each of its leaves replaced; null is a leaf that can match nothing any more. What does not change is the same
 * object, and nothing widens: *all of* something that never matches never matches.
 */
export function replacedLeaves(c: Condition, by: (leaf: Condition) => Condition | null): Condition | null {
  const members = groupMembers(c)
  if (!members) return by(c)
  const now = members.map(m => replacedLeaves(m, by))
  if (now.every((m, i) => m === members[i])) return c
  const left = now.filter(m => m !== null)
  if (!left.length || ('all' in c && left.length < now.length)) return null
  return 'all' in c ? { all: left } : 'any' in c ? { any: left } : { none: left }
}

/** The leaves by which a condition holds, in their order. Those under *none* are not among them: narrowed, they would widen it. */
export function leavesOf(c: Condition): Condition[] {
  return 'none' in c ? [] : (groupMembers(c)?.flatMap(leavesOf) ?? [c])
}

/** A condition on phrases without some of them; null where none is left. Other conditions stay as they are. */
export function withoutPhrases(c: Condition, texts: ReadonlySet<string>): Condition | null {
  if (!('phrases' in c) || !c.phrases) return c
  const phrases = phrasesWithout(c.phrases, texts)
  if (phrases.length === c.phrases.length) return c
  return phrases.length ? { ...c, phrases } : null
}

export function phrasesWithout(phrases: readonly PhraseItem[], texts: ReadonlySet<string>): PhraseItem[] {
  return phrases.filter(p => !texts.has(phraseText(p)))
}
