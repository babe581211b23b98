import { effectKind, never } from './kind'

/** Attachments taken off. */
export const strip = effectKind({
  name: 'strip',
  valued: true,
  rivals: never,
  always: false,
  administrators: false,
  form: null,
  words: value => (value ? `strip ${value}` : 'strip'),
})
