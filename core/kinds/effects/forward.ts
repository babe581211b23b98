import { effectKind, never } from './kind'

/** A further copy to an address. */
export const forward = effectKind({
  name: 'forward',
  valued: true,
  rivals: never,
  always: false,
  administrators: false,
  form: null,
  words: value => (value ? `forward ${value}` : 'forward'),
})
