import { findKey, phraseKeys, viewOf, viewText } from '../../text'
import { entryKind, short } from './kind'
import { senderText } from './words'

/** Fewer would be part of almost every address. Common practice, no source. */
const SHORTEST = 3

/** Letters in a sender's name or address, also where they are only part of a word. */
export const contains = entryKind({
  name: 'contains',
  label: 'part of name or address (contains)',
  line: 'contains',
  example: 'invoice',
  of: 'address',
  canonical(text) {
    const value = text.replace(/\s+/gu, ' ')
    return [...value].length < SHORTEST
      ? { error: `“${short(value)}” is part of too many names and addresses. Enter at least ${SHORTEST} characters.` }
      : value
  },
  looksLike: () => false,
  catches: (value, { address }) => {
    const view = viewOf(senderText(address), 'plain')
    return phraseKeys(value, 'plain').some(key => findKey(view, viewText(view), key, false, 1).length > 0)
  },
  lookup: { literal: value => phraseKeys(value, 'plain')[0]?.key ?? '' },
  rank: 7,
  within: () => 0,
  verifiable: () => false,
  domain: () => null,
  wider: () => [],
  doubt: () => null,
  words: value => `“${value}” anywhere in name or address`,
})
