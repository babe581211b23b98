import { effectKind, never } from './kind'

/** Nothing further happens to it of itself. */
export const withhold = effectKind({
  name: 'withholdFromAutomation',
  valued: false,
  rivals: never,
  always: false,
  administrators: false,
  form: null,
  words: () => 'withhold from automation',
})
