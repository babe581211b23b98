import { effectKind, never } from './kind'

/** Somebody is told. */
export const notify = effectKind({
  name: 'notify',
  valued: true,
  rivals: never,
  always: false,
  administrators: false,
  form: null,
  words: value => (value ? `notify ${value}` : 'notify'),
})
