import { effectKind, never } from './kind'

/** A blind copy to an address. */
export const copy = effectKind({
  name: 'copy',
  valued: true,
  rivals: never,
  always: false,
  administrators: false,
  form: null,
  words: value => (value ? `copy ${value}` : 'copy'),
})
