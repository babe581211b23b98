import { decodeWords } from 'postal-mime'

/** Decodes encoded words (RFC 2047); text that cannot be decoded stays as it is. */
export function decodeSafely(text: string): string {
  return text.includes('=?') ? decodeWords(text) : text
}
