import { effectKind, ever } from './kind'

/** Another way onward. */
export const nextHop = effectKind({
  name: 'nextHop',
  valued: true,
  rivals: ever,
  always: false,
  administrators: false,
  form: null,
  words: value => (value ? `next hop ${value}` : 'next hop'),
})
