import { belowAll, canonicalDomain } from './domains'
import { entryKind } from './kind'

/** That domain only. */
export const domain = entryKind({
  name: 'domain',
  label: 'domain only',
  line: 'domain',
  example: 'quayline.example',
  of: 'address',
  canonical: canonicalDomain,
  looksLike: (line, below) => !below && (line.startsWith('@') || !line.includes('@')),
  catches: (value, { address }) => address.domain === value,
  lookup: {
    ask({ address }, asked) {
      if (address.domain) asked(address.domain)
    },
  },
  rank: 2,
  within: () => 0,
  verifiable: () => true,
  domain: value => value,
  wider: value => belowAll(value),
  doubt: () => null,
  words: value => `@${value}`,
})
