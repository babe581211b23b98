import { quoted } from '#core'
import type { ChangeNote } from '../db/schema'

/** What somebody, or the product, said of a change, as people read it. */
export function noteWords(note: ChangeNote): string {
  switch (note.kind) {
    case 'text':
      return note.text
    case 'handedOver':
      return `Lists and rules of ${note.from} now belong to ${note.to}`
    case 'returnedMail':
      return `Returned the mail that ${note.clause} ${quoted(note.name)} had stopped`
    case 'removedQuarantine':
      return `Deleted quarantine ${quoted(note.name)}: what it held, and what would be held there, goes to ${quoted(note.to)}`
  }
}
