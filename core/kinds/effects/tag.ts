import { quoted } from '../../wording'
import { effectKind, never } from './kind'

export const tag = effectKind({
  name: 'tag',
  valued: true,
  rivals: never,
  always: true,
  administrators: false,
  onCopy: (copy, value) => ({ ...copy, tags: [...copy.tags, value] }),
  form: {
    field: 'TagField',
    further: false,
    written: values => values.join(', '),
    read: text =>
      text
        .split(',')
        .map(t => t.trim())
        .filter(Boolean),
  },
  words: value => (value === undefined ? 'add a tag' : `add the tag ${quoted(value)}`),
})
