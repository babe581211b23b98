import { effectKind, ever } from './kind'

/** A notice in place of the content. */
export const replace = effectKind({
  name: 'replace',
  valued: true,
  rivals: ever,
  always: false,
  administrators: false,
  words: value => (value ? `replace ${value}` : 'replace'),
})
