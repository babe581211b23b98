import { joinedBytes, latin1, withLineFeeds } from './bytes'
import { decodeText, strictUtf8 } from './charset'
import { decodeWords } from './encoded-words'
import { fileName, readParameters } from './parameters'
import type { Flowed } from './plain-text'
import {
  fieldValue,
  isEncoded,
  isMessageType,
  scanStructure,
  settleRawFields,
  type DefectList,
  type Part,
  type Structure,
} from './structure'
import { transferDecoded } from './transfer'

/** A text of the message, as it is to be shown. */
export interface Piece {
  html: boolean
  text: string
  flowed: Flowed | null
  /** It is part of a message that lies in this one. */
  quoted: boolean
}

export interface RawAttachment {
  name: string
  /** As declared, lower case. */
  type: string
  bytes: Uint8Array
  /** As declared; empty where nothing is. */
  charset: string
  /** What an attached message says: its bytes are not read again. */
  pieces?: Piece[]
}

export interface Bodies {
  /** In the order in which a reader sees them. */
  pieces: Piece[]
  /** What stands beside them for readers who show something else: alternatives that were not chosen. */
  alternatives: Piece[]
  /** What only some readers show. */
  aside: Piece[]
  attachments: RawAttachment[]
  /** The first character set that a text declares; empty where none does. */
  charset: string
}

/** How much is read. */
export interface BodyOptions {
  /** Bytes of each text that are read, before its transfer encoding is taken off. */
  mostText?: number
}

/** How often an encoded message inside an encoded message is opened. */
const MAX_LEVELS = 8

/** The texts and attachments of a message, by its structure. What is wrong with them is added to the structure's defects. */
export function readBodies(structure: Structure, options: BodyOptions = {}): Bodies {
  const out: Bodies = { pieces: [], alternatives: [], aside: [], attachments: [], charset: '' }
  new BodyReader(structure.defects, options).read(structure.root, out, 'shown')
  return out
}

type Presentation = 'shown' | 'quoted' | 'alternative' | 'aside'

/** So deep in each other attached messages have an entry of their own. */
const MAX_MESSAGE_DEPTH = 5

class BodyReader {
  /** How many messages the part that is read lies in. */
  private messages = 0

  constructor(
    private readonly defects: DefectList,
    private readonly options: BodyOptions,
    private readonly level = 0,
  ) {}

  read(part: Part, out: Bodies, how: Presentation): void {
    for (const [start, end] of part.aside) this.readAside(part.bytes.subarray(start, end), out)
    const here = part.afterClose ? 'aside' : how
    if (part.kind === 'message') this.readMessage(part, part.children[0]!, out, here)
    else if (part.kind === 'multipart') this.readMultipart(part, out, here)
    else if (isEncoded(part.encoding) && this.level < MAX_LEVELS && this.opensEncoded(part, out, here)) return
    else this.readLeaf(part, out, here)
  }

  private readMultipart(part: Part, out: Bodies, how: Presentation): void {
    const { children } = part
    const subtype = part.type.value
    if (subtype === 'multipart/encrypted')
      this.defects.add('encrypted message', `only its recipient’s key can decrypt it (${part.type.params.protocol ?? 'RFC 1847'})`)
    if (subtype === 'multipart/alternative') {
      const chosen = chosenAlternative(children)
      for (const child of children) this.read(child, out, child === chosen || how === 'aside' ? how : 'alternative')
      return
    }
    if (subtype === 'multipart/related') {
      const start = part.type.params.start
      const root = children.find(c => start !== undefined && fieldValue(c.fields, 'content-id') === start) ?? children[0]
      for (const child of children) this.read(child, out, child === root ? how : 'aside')
      return
    }
    for (const child of children) this.read(child, out, how)
  }

  // A message in a message: inline it is quoted from earlier mail, attached it is an attachment with what it says.
  private readMessage(part: Part, inner: Part, out: Bodies, how: Presentation): void {
    const own: Bodies = { pieces: [], alternatives: [], aside: [], attachments: [], charset: '' }
    this.messages++
    this.read(inner, own, 'quoted')
    this.messages--
    const fields = settleRawFields(inner.fields, own.charset)
    const heads = ['From', 'Date', 'To', 'Subject'].flatMap((name) => {
      const value = fieldValue(fields, name.toLowerCase())
      return value === undefined ? [] : [`${name}: ${decodeWords(value)}`]
    })
    const subject = decodeWords(fieldValue(fields, 'subject') ?? '')
    const head: Piece = { html: false, text: heads.join('\n'), flowed: null, quoted: true }
    const pieces = [...(heads.length ? [head] : []), ...own.pieces.map(p => ({ ...p, quoted: true }))]
    const attached = part.disposition.value === 'attachment'
    const name = fileName(part.disposition, part.type) || subject
    const attachment = {
      name,
      type: part.type.value,
      bytes: inner.bytes.subarray(part.bodyStart, part.bodyEnd),
      charset: '',
      pieces: [...pieces, ...own.alternatives, ...own.aside],
    }
    // Deeper ones are read as part of the one around them: each would be hashed and read once more for every one above it.
    if (this.messages <= MAX_MESSAGE_DEPTH) out.attachments.push(attachment)
    out.attachments.push(...own.attachments)
    if (attached && this.messages <= MAX_MESSAGE_DEPTH) return
    place(out, how === 'shown' ? 'quoted' : how).push(...pieces)
    out.alternatives.push(...own.alternatives)
    out.aside.push(...own.aside)
  }

  // Messages and multiparts must not be encoded (RFC 2046 5.2.1, RFC 2045 6.4), and are opened all the same.
  private opensEncoded(part: Part, out: Bodies, how: Presentation): boolean {
    const type = part.type.value
    const isMultipart = type.startsWith('multipart/')
    if (!isMultipart && !isMessageType(type)) return false
    const { bytes } = transferDecoded(part.bytes.subarray(part.bodyStart, part.bodyEnd), part.encoding)
    const inside = new BodyReader(this.defects, this.options, this.level + 1)
    if (!isMultipart) {
      const inner = scanStructure(bytes, this.defects, part.depth + 1).root
      inside.readMessage({ ...part, bytes, bodyStart: 0, bodyEnd: bytes.length }, inner, out, how)
      return true
    }
    const field = part.fields.find(f => f.name.toLowerCase() === 'content-type')
    const head = new TextEncoder().encode(`Content-Type: ${field?.value ?? type}\r\n\r\n`)
    const whole = joinedBytes([head, bytes])
    inside.read(scanStructure(whole, this.defects, part.depth + 1).root, out, how)
    return true
  }

  private readLeaf(part: Part, out: Bodies, how: Presentation): void {
    const type = part.type.value.startsWith('multipart/') ? 'text/plain' : part.type.value
    const name = fileName(part.disposition, part.type)
    const isText = type.startsWith('text/')
    const attached = part.disposition.value === 'attachment'
    const whole = part.bytes.subarray(part.bodyStart, part.bodyEnd)
    const { mostText = Infinity } = this.options
    const cutText = isText && !attached && whole.length > mostText
    if (cutText) this.defects.add('read in part', 'reading all of it took too long; only the first megabyte of each text is read')
    const body = cutText ? whole.subarray(0, mostText) : whole
    const { bytes, cut, stray, unknown } = transferDecoded(body, part.encoding)
    if (cut && !cutText) this.defects.add('body cut short', `${name || type} ends in the middle of its ${part.encoding}`)
    if (unknown)
      this.defects.add('unknown transfer encoding', `${part.encoding.slice(0, 80)}; the bytes are read without decoding (RFC 2045 6.4)`)
    const charset = part.type.params.charset ?? ''
    if (isText && !out.charset) out.charset = charset
    if (!isText || attached || name) out.attachments.push({ name, type, bytes, charset })
    if (!isText || attached) {
      this.nameLocked(type, name, part.type.params['smime-type'])
      return
    }
    const into = place(out, how)
    into.push(this.piece(bytes, type, part, how))
    if (part.encoding === 'base64' && stray) this.readAside(body, out)
    const { otherwise } = part
    if (otherwise.type?.value.startsWith('text/')) out.aside.push(this.piece(bytes, otherwise.type.value, part, how))
    if (otherwise.encoding !== undefined) out.aside.push(this.piece(transferDecoded(body, otherwise.encoding).bytes, type, part, how))
  }

  private piece(bytes: Uint8Array, type: string, part: Part, how: Presentation): Piece {
    const { params } = part.type
    const html = type === 'text/html'
    const charset = params.charset || (html && strictUtf8(bytes) === null ? metaCharset(bytes) : '')
    // In HTML a line break is white space like other. Of UTF-16 a byte is no character; its line breaks are taken as they come.
    const { text, unknown } = decodeText(html || /^utf-?16/i.test(charset) ? bytes : withLineFeeds(bytes), charset)
    if (unknown) this.defects.add('unknown character set', charset.slice(0, 80))
    // RFC 3676 4: a parameter of text/plain.
    const flowed = params.format?.toLowerCase() === 'flowed' ? { delSp: params.delsp?.toLowerCase() === 'yes' } : null
    return { html, text, flowed, quoted: how === 'quoted' }
  }

  private nameLocked(type: string, name: string, smimeType: string | undefined): void {
    // RFC 8551 3.2: enveloped, or signed so that the text lies inside; a detached signature hides nothing.
    if (/^application\/(?:x-)?pkcs7-mime$/.test(type))
      this.defects.add('opaque S/MIME', `${name || 'a part'}: ${smimeType ?? 'its text is inside and cannot be read'}`)
    if (type === 'application/ms-tnef' || /^winmail\.dat$/i.test(name)) this.defects.add('winmail.dat', 'its content is not read')
  }

  // Before the first part, after the last, in a doubtful header: what readers without MIME are shown. The sentence that
  // programs put there for them says nothing.
  private readAside(bytes: Uint8Array, out: Bodies): void {
    const text = decodeText(bytes.subarray(0, this.options.mostText), '').text.trim()
    if (
      text === '' ||
      (text.length < 200 &&
        /^(?:this is an? |you are reading this |if you (?:are reading|can read) this)[^\n]{0,150}\bmime\b[^\n]{0,60}$/i.test(text))
    )
      return
    out.aside.push({ html: false, text, flowed: null, quoted: false })
  }
}

function place(out: Bodies, how: Presentation): Piece[] {
  if (how === 'alternative') return out.alternatives
  return how === 'aside' ? out.aside : out.pieces
}

// RFC 2046 5.1.4: the last that a reader can show, HTML before plain text, plain text before what hardly anybody shows.
function chosenAlternative(children: readonly Part[]): Part | null {
  let best: Part | null = null
  let rank = 0
  for (const child of children) {
    const own = rankOf(child)
    if (own >= rank && own > 0) [best, rank] = [child, own]
  }
  return best
}

function rankOf(part: Part): number {
  if (part.kind !== 'leaf') return Math.max(0, ...part.children.slice(0, 100).map(rankOf))
  if (part.disposition.value === 'attachment') return 0
  const { value } = part.type
  return value === 'text/html' ? 3 : value === 'text/plain' ? 2 : value.startsWith('text/') ? 1 : 0
}

// What the HTML says of its own character set, within the first kilobyte (HTML standard, 13.2.3.2).
function metaCharset(bytes: Uint8Array): string {
  const head = latin1(bytes.subarray(0, 1024)).toLowerCase()
  for (let at = head.indexOf('<meta'); at >= 0; at = head.indexOf('<meta', at + 5)) {
    const end = head.indexOf('>', at)
    const tag = head.slice(at, end < 0 ? undefined : end)
    const place = tag.indexOf('charset')
    const value = place < 0 ? null : /^ ?= ?["']? ?([\w-]+)/.exec(tag.slice(place + 'charset'.length).replace(/\s+/g, ' '))
    if (value) return readParameters(value[1]!).value
  }
  return ''
}

/** What a reader is shown, as one HTML text, plain pieces in between; null where there is no HTML. Not safe to show. */
export function htmlBody(bytes: Uint8Array): string | null {
  const { pieces } = readBodies(scanStructure(bytes))
  if (!pieces.some(p => p.html)) return null
  return pieces.map(p => (p.html ? p.text : `<pre>${p.text.replaceAll('&', '&amp;').replaceAll('<', '&lt;')}</pre>`)).join('\n')
}
