import { effectKind, never } from './kind'

/** Only by a hop that encrypts. */
export const encrypt = effectKind({
  name: 'encrypt',
  valued: false,
  rivals: never,
  always: false,
  administrators: false,
  form: null,
  words: () => 'encrypt',
})
