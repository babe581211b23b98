import type { CopyCount } from '~/api/client'

/** "1 copy", "1,284 copies", "more than 10,000 copies". */
export function countWords({ total, more }: CopyCount): string {
  return `${more ? 'more than ' : ''}${total.toLocaleString('en')} ${total === 1 && !more ? 'copy' : 'copies'}`
}
