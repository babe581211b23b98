import { effectKind, never } from './kind'

export const markImportant = effectKind({
  name: 'important',
  valued: false,
  rivals: never,
  always: true,
  administrators: false,
  onCopy: copy => ({ ...copy, important: true }),
  words: () => 'mark important',
})
