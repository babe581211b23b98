import { bytesOfLatin1, joinedBytes } from './bytes'
import { decodeText } from './charset'
import { decodeBase64 } from './transfer'

/** One encoded word as it stands: character set, bytes, and where it ended. */
interface Word {
  charset: string
  bytes: Uint8Array
  end: number
}

/**
 * Decodes encoded words (RFC 2047), also those inside quoted strings or glued to other text, as readers do. White space
 * between two of them goes (6.2); words of one character set that follow each other are decoded together, since some
 * programs cut a character in two. What is no encoded word stays as it is.
 */
export function decodeWords(text: string): string {
  if (!text.includes('=?')) return text
  let out = ''
  let at = 0
  let run: { charset: string, pieces: Uint8Array[] } | null = null
  const flush = () => {
    if (run) out += decodeText(oneText(run), run.charset).text
    run = null
  }
  while (at < text.length) {
    const start = text.indexOf('=?', at)
    if (start < 0) break
    const word = readWord(text, start)
    if (!word) {
      flush()
      out += text.slice(at, start + 2)
      at = start + 2
      continue
    }
    const between = text.slice(at, start)
    if (run === null || !isBlank(between)) {
      flush()
      out += between
    }
    if (run && (run as { charset: string }).charset !== word.charset) flush()
    run ??= { charset: word.charset, pieces: [] }
    run.pieces.push(word.bytes)
    at = word.end
  }
  flush()
  return out + text.slice(at)
}

const ESCAPE = 0x1b

/**
 * The bytes of words that follow each other. In ISO 2022 every word ends in ASCII and the next begins by leaving it (RFC 1468): of two
 * escape sequences with nothing between them only the last counts, and a decoder takes the first for a fault.
 */
function oneText({ pieces, charset }: { pieces: readonly Uint8Array[], charset: string }): Uint8Array {
  const bytes = joinedBytes(pieces)
  if (pieces.length < 2 || !/^(?:cs)?iso-?2022/.test(charset)) return bytes
  const out = new Uint8Array(bytes.length)
  let count = 0
  for (let at = 0; at < bytes.length;) {
    const end = bytes[at] === ESCAPE ? endOfEscape(bytes, at) : at + 1
    const isMoot = bytes[at] === ESCAPE && bytes[end] === ESCAPE
    if (!isMoot) {
      out.set(bytes.subarray(at, end), count)
      count += end - at
    }
    at = end
  }
  return out.subarray(0, count)
}

// ISO/IEC 2022 (ECMA-35): ESC, intermediate bytes, one final byte.
function endOfEscape(bytes: Uint8Array, from: number): number {
  let end = from + 1
  while (end < bytes.length && bytes[end]! >= 0x20 && bytes[end]! <= 0x2f) end++
  return Math.min(bytes.length, end + 1)
}

const MAX_CHARSET = 60

// "=?charset?Q?text?=". Each part is looked for over a bounded stretch or to the next "?", so that "=?=?=?" costs no more than its length.
function readWord(text: string, start: number): Word | null {
  const afterCharset = text.indexOf('?', start + 2)
  if (afterCharset < 0 || afterCharset - start - 2 > MAX_CHARSET || afterCharset === start + 2) return null
  const encoding = text[afterCharset + 1]?.toLowerCase()
  if ((encoding !== 'q' && encoding !== 'b') || text[afterCharset + 2] !== '?') return null
  const begin = afterCharset + 3
  let end = text.indexOf('?', begin)
  // Q text may hold a bare "?" by mistake; the word ends at "?=" all the same.
  while (end >= 0 && text[end + 1] !== '=' && end - begin < 1000) end = text.indexOf('?', end + 1)
  if (end < 0 || text[end + 1] !== '=') return null
  const encoded = text.slice(begin, end)
  // RFC 2231 5: the language after "*" says nothing about the bytes.
  const charset = text
    .slice(start + 2, afterCharset)
    .split('*')[0]!
    .toLowerCase()
  if (/\s/.test(charset)) return null
  return { charset, bytes: encoding === 'b' ? decodeBase64(bytesOfLatin1(encoded)).bytes : decodeQ(encoded), end: end + 2 }
}

function decodeQ(text: string): Uint8Array {
  const plain = text.replaceAll('_', ' ').replace(/=([0-9a-f]{2})/gi, (_, hex: string) => String.fromCharCode(parseInt(hex, 16)))
  for (let i = 0; i < plain.length; i++) if (plain.charCodeAt(i) > 255) return new TextEncoder().encode(plain)
  return bytesOfLatin1(plain)
}

function isBlank(text: string): boolean {
  for (let i = 0; i < text.length; i++) if (!' \t\r\n'.includes(text[i]!)) return false
  return true
}
