import { quoted } from '../phrasing'
import { effectKind, ever } from './kind'

export const subjectMark = effectKind({
  name: 'subject mark',
  valued: true,
  rivals: ever,
  always: false,
  administrators: false,
  onCopy: (copy, value) => ({ ...copy, subject: `${value} ${copy.subject}` }),
  onMessage: (message, value) => ({ ...message, before: value }),
  words: value => (value === undefined ? 'put a mark before the subject' : `put ${quoted(value)} before the subject`),
})
