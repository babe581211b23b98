import { quoted } from '../../wording'
import { effectKind, ONE_VALUE } from './kind'

/** A header line, put on top of the message. */
export const addHeader = effectKind({
  name: 'header',
  valued: true,
  rivals: (a, b) => nameOf(a) === nameOf(b),
  always: false,
  administrators: true,
  onMessage: (message, value) => ({ ...message, headers: [...message.headers, value] }),
  form: { field: 'HeaderEffectField', further: true, ...ONE_VALUE },
  words: value => (value === undefined ? 'add a header' : `add the header ${quoted(value)}`),
})

function nameOf(line: string | undefined): string | undefined {
  return line?.split(':')[0]!.trim().toLowerCase()
}
