import type { CopyCount } from '~/api/client'

/** One message by its subject, several by their number. */
export function namedCopies(copies: readonly { subject: string }[]): string {
  return copies.length === 1 ? `“${copies[0]!.subject || 'no subject'}”` : `${copies.length} messages`
}

/** "1 copy", "1,284 copies", "more than 10,000 copies". */
export function countWords({ total, more }: CopyCount): string {
  return `${more ? 'more than ' : ''}${total.toLocaleString('en')} ${total === 1 && !more ? 'copy' : 'copies'}`
}
