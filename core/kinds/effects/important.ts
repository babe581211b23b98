import { effectKind, never } from './kind'

export const markImportant = effectKind({
  name: 'important',
  valued: false,
  rivals: never,
  always: true,
  administrators: false,
  onCopy: copy => ({ ...copy, important: true }),
  form: { field: 'ImportantField', further: false, written: values => (values.length ? 'yes' : ''), read: text => (text ? [''] : []) },
  words: () => 'flag as important',
})
