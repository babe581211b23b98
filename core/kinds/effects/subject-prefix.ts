import { quoted } from '../../wording'
import { effectKind, ONE_VALUE, ever } from './kind'

export const subjectPrefix = effectKind({
  name: 'subjectPrefix',
  valued: true,
  rivals: ever,
  always: false,
  administrators: false,
  onCopy: (copy, value) => ({ ...copy, subject: `${value} ${copy.subject}` }),
  onMessage: (message, value) => ({ ...message, before: value }),
  form: { field: 'SubjectPrefixField', further: false, ...ONE_VALUE },
  words: value => (value === undefined ? 'add a subject prefix' : `add the subject prefix ${quoted(value)}`),
})
