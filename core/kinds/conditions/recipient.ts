import { ADDRESS_KINDS, entryCatches, entryWords, type EntryText } from '../entries'
import { conditionKind } from './kind'

export const recipient = conditionKind({
  name: 'recipient',
  label: 'the recipient is',
  schema: ({ entryText }) => entryText(ADDRESS_KINDS),
  holds: ({ message: { content } }, value: EntryText) =>
    [...content.to, ...content.cc].find(address => entryCatches(value, { address, listId: null, client: null }))?.key ?? null,
  prefilter: null,
  words: value => `the recipient is ${entryWords(value)}`,
  found: shown => `the recipient ${shown}`,
  blank: { kind: 'address', value: '' } as EntryText,
  lacks: ({ value }) => (value.trim() ? null : 'Enter the address or domain.'),
  field: 'RecipientField',
})
