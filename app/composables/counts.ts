import { counted, oneOf, plural, quoted } from '#core/wording'
import type { CopyCount } from '~/api/client'

/** One message by its subject, several by their number. */
export function namedCopies(copies: readonly { subject: string }[]): string {
  return copies.length === 1 ? `“${copies[0]!.subject || 'no subject'}”` : counted(copies.length, 'message')
}

/** A further sentence on messages that were not released, since another list or rule also stops them. Empty if there are none. */
export function notReleasedWords(n: number, why = ''): string {
  if (!n) return ''
  return ` ${counted(n, 'message')} ${plural(n, 'was', 'were')} not released: another list or rule `
    + `also stops ${plural(n, 'it', 'them')}.${why && ` ${why}`}`
}

/** "1 message", "1,284 messages", "more than 10,000 messages". */
export function countWords({ total, more }: CopyCount): string {
  return `${more ? 'more than ' : ''}${counted(total, 'message')}`
}

/** Rules by name: "rule “Fee demands”", "rules “Fee demands” and “Programs”". */
export function rulesWords(names: readonly string[]): string {
  return `${plural(names.length, 'rule')} ${oneOf(names.map(quoted), 'and', 12)}`
}
