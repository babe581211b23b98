import { quoted } from '#core/wording'
import type { ChangeNote } from '../db/schema'

/** What somebody, or the product, said of a change, as people read it. */
export function noteWords(note: ChangeNote): string {
  switch (note.kind) {
    case 'text':
      return note.text
    case 'handedOver':
      return `Moved the lists and rules of ${note.from} to ${note.to}`
    case 'handedBack':
      return `Moved the lists and rules of ${note.to} back to them`
    case 'returnedMail':
      return `Returned the mail that ${note.clause} ${quoted(note.name)} had stopped`
    case 'removedQuarantine':
      return `Deleted quarantine ${quoted(note.name)}; its mail, and mail that would be held there, goes to quarantine ${quoted(note.to)}`
  }
}
