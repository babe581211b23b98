import { effectKind, ever } from './kind'

/** Another recipient. */
export const reroute = effectKind({
  name: 'reroute',
  valued: true,
  rivals: ever,
  always: false,
  administrators: false,
  form: null,
  words: value => (value ? `reroute ${value}` : 'reroute'),
})
