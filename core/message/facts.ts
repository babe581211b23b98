import { withoutComments } from './comments'
import { decodeSafely } from './encoded-words'
import { fieldValue, type RawField } from './structure'
import type { HeaderField, ListIdentity } from './types'

/** Header fields with encoded words decoded (RFC 2047). */
export function decodedFields(fields: readonly RawField[]): HeaderField[] {
  return fields.map(f => ({ name: f.name, raw: f.value, value: decodeSafely(f.value) }))
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

/** A Date field as an ISO 8601 instant; null where it cannot be read (RFC 5322 3.3, with its obsolete forms). */
export function readDate(field: string | undefined): string | null {
  if (!field) return null
  // JavaScript reads RFC 5322 dates, but not comments or white space inside the time ("13 : 00").
  const plain = withoutComments(field).replace(/\s*:\s*/g, ':').replace(/\s+/g, ' ').trim()
  const date = new Date(plain)
  return Number.isNaN(date.getTime()) ? null : date.toISOString()
}

/** True if the sender marked the message as important (Importance, RFC 2156 5.3.4; X-Priority and Priority by common practice). */
export function markedImportant(fields: readonly RawField[]): boolean {
  return /^high/i.test(fieldValue(fields, 'importance') ?? '')
    || /^[12]\b/.test(fieldValue(fields, 'x-priority') ?? '')
    || /^urgent/i.test(fieldValue(fields, 'priority') ?? '')
}

/**
 * What an upstream system wrote to mark a message as unwanted: a flag header, or a mark before the subject (common
 * practice of several programs, no source). Null where there is none.
 */
export function upstreamMark(fields: readonly RawField[], subject: string): string | null {
  const flag = fields.find(f => /^x-(?:[a-z]+-)*spam(?:-flag|-status)?$/i.test(f.name) && /^yes\b/i.test(f.value))
  if (flag) return `${flag.name}: ${flag.value.slice(0, 80)}`
  return /^\s*(?:\[[^\]]*\b(?:spam|junk|bulk)\b[^\]]*\]|\*{2,}\s*(?:spam|junk)\s*\*{2,})/i.exec(subject)?.[0].trim() ?? null
}
