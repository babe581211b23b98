import type { Address } from '../../address'
import { findKey, phraseKeys, viewOf, viewText } from '../../text'
import { entryKind } from './kind'

/** Whole words in a sender's name or address. */
export const words = entryKind({
  name: 'words',
  label: 'whole words in name or address',
  line: 'words',
  example: 'chandlers',
  of: 'address',
  canonical: text => text.replace(/\s+/gu, ' '),
  looksLike: () => false,
  catches: (value, { address }) => {
    const view = viewOf(senderText(address), 'plain')
    return phraseKeys(value, 'plain').some(key => findKey(view, viewText(view), key, true, 1).length > 0)
  },
  lookup: { literal: value => phraseKeys(value, 'plain')[0]?.key ?? '' },
  rank: 6,
  within: () => 0,
  verifiable: () => false,
  domain: () => null,
  wider: () => [],
  doubt: () => null,
  words: value => `“${value}” in name or address`,
})

/** The text in which words of a sender are sought: the name, then the address. */
export function senderText(address: Address): string {
  return `${address.name}\n${address.local}@${address.domainUnicode}`
}
