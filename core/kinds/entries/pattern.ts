import { foldLocal } from '../../address'
import { matchesWildcard } from '../wildcard'
import { entryKind, short } from './kind'

/** With * and ? over the whole address. */
export const pattern = entryKind({
  name: 'pattern',
  label: 'pattern with * and ?',
  line: 'pattern',
  example: '*@*.quayline.example',
  of: 'address',
  canonical: text =>
    !/[*?]/.test(text) || /\s/.test(text)
      ? { error: `“${short(text)}” is not a pattern. Write it with * or ? over the whole address, such as *@*.quayline.example.` }
      : foldLocal(text),
  looksLike: line => /[*?]/.test(line),
  catches: (value, { address }) => matchesWildcard(value, address.key),
  lookup: { literal: value => value.split(/[*?]+/).reduce((a, b) => (b.length > a.length ? b : a), '') },
  rank: 5,
  within: value => -value.replace(/[*?]/g, '').length,
  verifiable: value => !hasOpenDomain(value),
  domain: () => null,
  wider: () => [],
  doubt: () => null,
  words: value => value,
})

// Something wild after the "@", or no "@": whoever wrote it may have any domain.
function hasOpenDomain(value: string): boolean {
  const at = value.lastIndexOf('@')
  return at < 0 || /[*?]/.test(value.slice(at + 1))
}
