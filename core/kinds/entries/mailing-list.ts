import { entryKind } from './kind'

/** By List-Id (RFC 2919). */
export const mailingListEntry = entryKind({
  name: 'mailingList',
  label: 'mailing list',
  line: 'mailing list',
  example: 'news.regatta-society.example',
  of: 'message',
  canonical: text =>
    (/<([^<>]*)>/.exec(text)?.[1] ?? text).replace(/\s+/g, '').toLowerCase() || {
      error: 'Enter the List-Id, such as news.regatta-society.example.',
    },
  looksLike: () => false,
  catches: (value, { listId }) => listId === value,
  lookup: {
    ask({ listId }, asked) {
      if (listId !== null) asked(listId)
    },
  },
  rank: 1,
  within: () => 0,
  verifiable: () => true,
  domain: () => null,
  wider: () => [],
  doubt: () => null,
  words: value => `mailing list ${value}`,
})
