import { decodeWords } from './encoded-words'
import { fieldValue, type RawField } from './structure'
import type { HeaderField, ListIdentity } from './types'

/** Header fields with encoded words decoded (RFC 2047). */
export function decodedFields(fields: readonly RawField[]): HeaderField[] {
  return fields.map(f => ({ name: f.name, raw: f.value, value: decodeWords(f.value) }))
}

/** How many fields of that name there are. */
export function countFields(fields: readonly RawField[], name: string): number {
  return fields.filter(f => f.name.toLowerCase() === name).length
}

/** What the message says of the mailing list that sent it (RFC 2919, 2369, 8058, 3834). */
export function listIdentity(fields: readonly RawField[]): ListIdentity {
  const listId = fieldValue(fields, 'list-id')
  const unsubscribe = fieldValue(fields, 'list-unsubscribe') ?? ''
  return {
    id: listId === undefined ? null : (/<([^<>]*)>\s*$/.exec(listId)?.[1] ?? listId).replace(/\s+/g, '').toLowerCase() || null,
    unsubscribe: [...unsubscribe.matchAll(/<\s*([^<>\s]+)\s*>/g)].map(m => m[1]!).slice(0, 20),
    oneClick: /List-Unsubscribe\s*=\s*One-Click/i.test(fieldValue(fields, 'list-unsubscribe-post') ?? ''),
    precedence: fieldValue(fields, 'precedence')?.toLowerCase() || null,
    autoSubmitted: fieldValue(fields, 'auto-submitted')?.split(';')[0]!.trim().toLowerCase() || null,
  }
}

/** True if the sender marked the message as important (Importance, RFC 2156 5.3.4; X-Priority and Priority by common practice). */
export function markedImportant(fields: readonly RawField[]): boolean {
  return (
    /^high/i.test(fieldValue(fields, 'importance') ?? '') ||
    /^[12]\b/.test(fieldValue(fields, 'x-priority') ?? '') ||
    /^urgent/i.test(fieldValue(fields, 'priority') ?? '')
  )
}
