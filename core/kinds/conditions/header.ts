import { conditionKind } from './kind'

export const header = conditionKind({
  name: 'header',
  label: 'has the header',
  schema: ({ headerName }) => headerName,
  holds: ({ message: { content } }, value: string) => content.headers.find(h => h.name.toLowerCase() === value)?.name ?? null,
  prefilter: { by: value => value, opened: ({ content }) => content.headers.map(h => h.name.toLowerCase()) },
  words: value => `it has the header ${value}`,
  found: shown => `the header ${shown}`,
  blank: '',
  lacks: value => (value ? null : 'Enter the name of the header.'),
  field: 'HeaderField',
})
