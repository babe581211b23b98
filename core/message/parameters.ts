import { bytesOfLatin1 } from './bytes'
import { decodeText } from './charset'
import { withoutComments } from './comments'
import { decodeWords } from './encoded-words'

/** A Content-Type or Content-Disposition field. */
export interface Parameters {
  /** Lower case, without comments. */
  value: string
  /** By name in lower case; of two with one name the first counts. */
  params: Record<string, string>
  /** What the same name said a second time: readers differ in which they take. */
  again: [name: string, value: string][]
  /** A piece that is no parameter, as a charset with no semicolon before it. */
  stray: boolean
}

/** The value and parameters of a field (RFC 2045 5.1), RFC 2231's continuations and character sets taken together. */
export function readParameters(field: string): Parameters {
  const [head = '', ...pieces] = splitPieces(field.includes('(') ? withoutComments(field) : field)
  const raw: [string, string][] = []
  let stray = false
  for (const piece of pieces) {
    const equals = piece.indexOf('=')
    if (equals > 0) raw.push([piece.slice(0, equals).trim().toLowerCase(), unquoted(piece.slice(equals + 1).trim())])
    else if (piece.trim()) stray = true
  }
  const value = head.trim().toLowerCase()
  const params: Record<string, string> = {}
  const again: Parameters['again'] = []
  for (const [name, text] of continued(raw)) {
    if (Object.hasOwn(params, name)) again.push([name, text])
    else params[name] = text
  }
  return { value, params, again, stray }
}

// Splits at semicolons outside quoted strings, each character looked at once.
function splitPieces(field: string): string[] {
  if (!field.includes('"')) return field.split(';')
  const out: string[] = []
  let start = 0
  let quoted = false
  for (let i = 0; i < field.length; i++) {
    const c = field[i]
    if (quoted && c === '\\') i++
    else if (c === '"') quoted = !quoted
    else if (c === ';' && !quoted) {
      out.push(field.slice(start, i))
      start = i + 1
    }
  }
  // A quotation mark that never closes: the rest is taken as if it stood alone.
  if (quoted) out.push(...field.slice(start).split(';'))
  else out.push(field.slice(start))
  return out
}

function unquoted(text: string): string {
  if (!text.startsWith('"')) return text.split(/[ \t\r\n]/, 1)[0]!
  let out = ''
  for (let i = 1; i < text.length && text[i] !== '"'; i++) out += text[i] === '\\' && i + 1 < text.length ? text[++i]! : text[i]!
  return out
}

const MAX_PIECES = 1000

// RFC 2231 3 and 4: "title*0*=us-ascii'en'This%20is; title*1=…".
function continued(raw: readonly [string, string][]): [string, string][] {
  if (!raw.some(([name]) => name.includes('*'))) return raw.slice()
  const out: [string, string][] = []
  const parts = new Map<string, { index: number, encoded: boolean, text: string }[]>()
  for (const [name, text] of raw) {
    const [base = '', ...rest] = name.split('*')
    if (!rest.length) {
      out.push([name, text])
      continue
    }
    const index = /^\d+$/.test(rest[0]!) ? Number(rest[0]) : 0
    const own = parts.get(base) ?? []
    parts.set(base, own)
    if (own.length < MAX_PIECES) own.push({ index, encoded: rest.at(-1) === '', text })
  }
  // What is said in the new way outweighs the old one beside it (RFC 6266 4.3, for those who know both).
  for (const [base, pieces] of parts) out.unshift([base, joinPieces(pieces.sort((a, b) => a.index - b.index))])
  return out
}

function joinPieces(pieces: readonly { encoded: boolean, text: string }[]): string {
  const first = pieces[0]!
  const quotes = first.encoded ? first.text.split('\'') : []
  const charset = quotes.length >= 3 ? quotes[0]! : ''
  let bytes = ''
  for (const [i, piece] of pieces.entries()) {
    const text = i === 0 && quotes.length >= 3 ? quotes.slice(2).join('\'') : piece.text
    bytes += piece.encoded ? text.replace(/%([0-9a-f]{2})/gi, (_, hex: string) => String.fromCharCode(parseInt(hex, 16))) : text
  }
  for (let i = 0; i < bytes.length; i++) if (bytes.charCodeAt(i) > 255) return bytes
  return decodeText(bytesOfLatin1(bytes), charset).text
}

/** The file name that a part gives itself, encoded words decoded though RFC 2047 5 has none there; empty where it gives none. */
export function fileName(disposition: Parameters, type: Parameters): string {
  return decodeWords(disposition.params.filename ?? type.params.name ?? '').trim()
}
