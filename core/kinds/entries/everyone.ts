import { entryKind } from './kind'

/** What a closed door is made of. */
export const everyone = entryKind({
  name: 'everyone',
  label: 'everyone',
  line: 'everyone',
  example: '',
  of: 'message',
  canonical: () => '',
  looksLike: line => /^everyone$/i.test(line),
  catches: () => true,
  lookup: { ask: (_, asked) => asked('') },
  rank: 9,
  within: () => 0,
  verifiable: () => false,
  domain: () => null,
  wider: () => [],
  doubt: () => null,
  words: () => 'everyone',
})
