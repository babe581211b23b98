import { effectKind, ever } from './kind'

/** A notice in place of the content. */
export const replace = effectKind({
  name: 'replace',
  valued: true,
  rivals: ever,
  always: false,
  administrators: false,
  form: null,
  words: value => (value ? `replace ${value}` : 'replace'),
})
