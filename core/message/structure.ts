import { addTo } from '../add-to'
import { bytesOfLatin1, isEightBit, latin1 } from './bytes'
import { decodeText, utf8Text } from './charset'
import { readParameters, type Parameters } from './parameters'
import type { Defect } from './types'

/** A header field as it stands: name, and the value unfolded but not decoded. */
export interface RawField {
  name: string
  /** One character a byte while `raw` is true; then bytes beyond ASCII wait for the character set that the body declares. */
  value: string
  raw?: boolean
}

/**
 * A part of a message, by where its body lies in `bytes`.
 *
 *   leaf       text or an attachment
 *   multipart  children between its delimiters
 *   message    one child, the enclosed message (RFC 2046 5.2.1)
 */
export interface Part {
  kind: 'leaf' | 'multipart' | 'message'
  fields: RawField[]
  type: Parameters
  disposition: Parameters
  /** The transfer encoding, lower case. */
  encoding: string
  bytes: Uint8Array
  bodyStart: number
  bodyEnd: number
  depth: number
  children: Part[]
  /** It came after its parent's closing delimiter, where only some readers go on. */
  afterClose: boolean
  /** What stands before the first delimiter, after the last, and in a header that some readers end earlier: hardly anybody is shown it. */
  aside: [start: number, end: number][]
  /** What a second field of the same name says of the type or the encoding; some readers go by that. */
  otherwise: { type?: Parameters, encoding?: string }
}

export interface Structure {
  fields: RawField[]
  /** The message itself. */
  root: Part
  defects: DefectList
}

/** Deeper than this is a defect; it is read all the same. */
const DEEP = 50
/** Deeper than this nothing is taken apart any more. */
const MAX_DEPTH = 500
const MAX_FIELDS = 2000
const MAX_FIELD_BYTES = 64 * 1024
const MAX_PARTS = 5000
const MAX_LINES = 100_000
const LF = 10
const CR = 13
const DASH = 45

/** Read however many fields stand before them. */
const NEEDED = /^(?:content-type|content-transfer-encoding|content-disposition|from|sender|subject|reply-to|to|cc|date|message-id)$/i

/** Defects, each kind once: hostile mail must not make the list long. */
export class DefectList {
  readonly list: Defect[] = []
  add(code: Defect['code'], detail: string): void {
    if (!this.list.some(d => d.code === code)) this.list.push({ code, detail })
  }
}

/** A part that is open: its children, or the lines after them, are being read. */
interface Open {
  part: Part
  /** Its delimiters without the dashes; none for an enclosed message. A second name is what a second parameter says. */
  boundaries: string[]
  seen: boolean
  closed: boolean
}

/**
 * Finds header fields and parts in one pass over the bytes, without decoding any body. Open boundaries are looked up by
 * name, so that hostile nesting costs no more than its length. What makes no sense as structure is text (RFC 2045 5.2,
 * RFC 2046 5.1), with a defect.
 */
export function scanStructure(bytes: Uint8Array, defects = new DefectList(), baseDepth = 0): Structure {
  if (bytes.length === 0) defects.add('empty message', 'the message has no bytes')
  // Old programs end lines with CR alone. Where there is no LF at all, that is what is meant.
  const lineEnd = bytes.includes(LF) ? LF : CR
  const root = newPart(bytes, baseDepth)
  const open: Open[] = []
  const named = new Map<string, Open[]>()
  let longest = 0
  let parts = 1
  /** The part whose header or body is read; null between the children of a multipart. */
  let current: Part | null = root
  let inHeader = true
  let fieldLines: Line[] = []
  let asideStart = 0
  let full = false

  let at = 0
  while (at < bytes.length) {
    // In a body only delimiters matter, and they begin with two dashes.
    if (!inHeader) at = longest && !full ? nextDashes(at) : bytes.length
    if (at >= bytes.length) break
    let eol = bytes.indexOf(lineEnd, at)
    if (eol < 0) eol = bytes.length
    const next = Math.min(eol + 1, bytes.length)
    const end = lineEnd === LF && eol > at && bytes[eol - 1] === CR ? eol - 1 : eol
    const delimiter = longest && !full && bytes[at] === DASH && bytes[at + 1] === DASH ? findDelimiter(at + 2, end) : null
    if (delimiter) beginPart(delimiter.of, delimiter.closes, at, next)
    else if (inHeader && end === at) finishHeader(at, next)
    else if (inHeader && fieldLines.length < MAX_LINES) fieldLines.push({ start: at, end })
    else if (inHeader) tooLong(at)
    at = next
  }
  while (inHeader) finishHeader(bytes.length, bytes.length)
  endAbove(-1, bytes.length)
  return { fields: root.fields, root, defects }

  function nextDashes(from: number): number {
    for (let i = bytes.indexOf(DASH, from); i >= 0; i = bytes.indexOf(DASH, i)) {
      if (bytes[i + 1] === DASH && (i === from || bytes[i - 1] === lineEnd)) return i
      while (bytes[i] === DASH) i++
    }
    return bytes.length
  }

  // A header that does not end: what comes after so many lines is the body.
  function tooLong(lineStart: number) {
    defects.add('too many header fields', `a header of more than ${MAX_LINES} lines`)
    while (inHeader) finishHeader(lineStart, lineStart)
  }

  function findDelimiter(start: number, end: number): { of: Open, closes: boolean } | null {
    // White space after a delimiter is padding (RFC 2046 5.1.1).
    while (end > start && (bytes[end - 1] === 32 || bytes[end - 1] === 9)) end--
    if (end - start > longest + 2) return null
    const line = latin1(bytes.subarray(start, end))
    const plain = named.get(line)?.at(-1)
    if (plain) return { of: plain, closes: false }
    const closing = line.endsWith('--') ? named.get(line.slice(0, -2))?.at(-1) : undefined
    return closing ? { of: closing, closes: true } : null
  }

  function beginPart(of: Open, closes: boolean, lineStart: number, next: number) {
    while (inHeader) finishHeader(lineStart, lineStart)
    const end = beforeLineBreak(lineStart)
    endAbove(open.lastIndexOf(of), end)
    if (!of.seen) addAside(of.part, asideStart, end)
    of.seen = true
    if (closes) {
      if (of.closed) addAside(of.part, asideStart, end)
      of.closed = true
      current = null
      inHeader = false
      asideStart = next
      return
    }
    if (of.closed) {
      addAside(of.part, asideStart, end)
      defects.add('parts after the end', 'a multipart continues after its closing boundary')
    }
    current = newPart(bytes, of.part.depth + 1)
    current.afterClose = of.closed || of.part.afterClose
    current.bodyStart = next
    of.part.children.push(current)
    inHeader = true
    if (++parts <= MAX_PARTS) return
    defects.add('body not fully readable', `more than ${MAX_PARTS} parts; the rest is read as text`)
    full = true
    inHeader = false
  }

  // Everything above that place in the stack ends here, and what is read with it.
  function endAbove(index: number, end: number) {
    if (current?.kind === 'leaf') current.bodyEnd = Math.max(end, current.bodyStart)
    for (let above = open.pop(); above; above = open.pop()) {
      if (open.length === index) {
        open.push(above)
        return
      }
      for (const name of above.boundaries) named.get(name)!.pop()
      endOf(above, end)
    }
  }

  function endOf({ part, boundaries, seen, closed }: Open, end: number) {
    part.bodyEnd = Math.max(end, part.bodyStart)
    if (!boundaries.length) return
    const name = boundaries[0]!.slice(0, 80)
    if (!seen) {
      part.kind = 'leaf'
      defects.add('boundary never seen', `“${name}” does not occur in the body, which is read as text`)
    }
    else if (!closed) {
      defects.add('boundary never closes', `“${name}” has no closing boundary`)
    }
    else {
      addAside(part, asideStart, part.bodyEnd)
      asideStart = part.bodyEnd
    }
  }

  function addAside(part: Part, start: number, end: number) {
    if (end > start) part.aside.push([start, end])
  }

  // The line break before a delimiter belongs to the delimiter (RFC 2046 5.1.1).
  function beforeLineBreak(lineStart: number): number {
    let end = lineStart
    if (end > 0 && bytes[end - 1] === lineEnd) end--
    if (lineEnd === LF && end > 0 && bytes[end - 1] === CR) end--
    return end
  }

  /** @param headerEnd where the header's lines end @param bodyStart where the body begins, after the empty line if there is one */
  function finishHeader(headerEnd: number, bodyStart: number) {
    const part = current!
    const lines = fieldLines
    fieldLines = []
    inHeader = false
    const body = readFields(part, lines, headerEnd < bodyStart)
    part.bodyStart = body ?? bodyStart
    part.bodyEnd = bytes.length
    readContentFields(part)
    if (part.depth > DEEP) defects.add('nested too deep', `parts are nested more than ${DEEP} deep`)
    const { value } = part.type
    if (part.depth < MAX_DEPTH && isMessageType(value) && !isEncoded(part.encoding)) {
      part.kind = 'message'
      open.push({ part, boundaries: [], seen: true, closed: true })
      current = newPart(bytes, part.depth + 1)
      current.bodyStart = part.bodyStart
      part.children.push(current)
      inHeader = true
      if (body === null) return
      // The empty line was forgotten: what was taken for the body is the enclosed header.
      fieldLines = lines.filter(l => l.start >= body)
      finishHeader(headerEnd, bodyStart)
      return
    }
    if (!value.startsWith('multipart/')) return
    const boundaries = [part.type.params.boundary, ...part.type.again.filter(([n]) => n === 'boundary').map(([, v]) => v)]
      .map(b => latin1Name(b ?? ''))
      .filter(Boolean)
    if (!boundaries.length) {
      defects.add('boundary missing', `${value} has no boundary parameter; its body is read as text`)
      return
    }
    if (part.depth >= MAX_DEPTH) return
    part.kind = 'multipart'
    const own: Open = { part, boundaries, seen: false, closed: false }
    open.push(own)
    for (const name of boundaries) {
      addTo(named, name, own)
      longest = Math.max(longest, name.length)
    }
    asideStart = part.bodyStart
    current = null
  }

  /**
   * Reads a part's header lines into its fields.
   * @returns where the body begins if it begins among these lines; null where it begins after them
   */
  function readFields(part: Part, lines: readonly Line[], blankLine: boolean): number | null {
    const fields = part.fields
    let pieces: string[] = []
    let length = 0
    let count = 0
    const needed = new Set<string>()
    let overlong = false
    let lastNeeded = blankLine ? lines.length - 1 : -1
    while (lastNeeded >= 0 && !(isField(lines[lastNeeded]!) && NEEDED.test(nameOf(lines[lastNeeded]!)))) lastNeeded--
    const asideFrom = (start: number) => {
      if (!part.aside.length) addAside(part, start, lines.at(-1)!.end)
    }
    const flush = () => {
      if (!pieces.length) return
      const text = pieces.join('')
      pieces = []
      length = 0
      const colon = text.indexOf(':')
      const name = text.slice(0, colon).trimEnd()
      if (++count > MAX_FIELDS) {
        defects.add('too many header fields', `more than ${MAX_FIELDS}`)
        // The first of a kind all the same, since it says how the rest is read.
        if (!NEEDED.test(name) || needed.has(name.toLowerCase())) return
        needed.add(name.toLowerCase())
      }
      fields.push(fieldOf(name, text.slice(colon + 1).trim()))
    }
    for (const [i, line] of lines.entries()) {
      const first = bytes[line.start]
      const folded = (first === 32 || first === 9) && (pieces.length > 0 || overlong)
      if (!folded) {
        flush()
        overlong = false
        if (!isField(line)) {
          // An mbox "From " line may have been left on top by a careless export.
          if (i === 0 && startsWith(line, MBOX)) continue
          defects.add('line without a field name', latin1(bytes.subarray(line.start, Math.min(line.end, line.start + 80))))
          // What follows is the body (common practice: the empty line was forgotten), unless fields that matter still come
          // before an empty line: then readers differ, and all of it is also words that somebody may be shown.
          if (i > lastNeeded) return line.start
          asideFrom(line.start)
          continue
        }
      }
      else if (isBlank(line)) {
        // Some readers take a line of blanks for the end of the header.
        asideFrom(line.end)
      }
      const room = MAX_FIELD_BYTES - length
      if (line.end - line.start > room) {
        defects.add('too many header fields', `a field longer than ${MAX_FIELD_BYTES} bytes`)
        overlong = true
      }
      if (room > 0) pieces.push(latin1(bytes.subarray(line.start, Math.min(line.end, line.start + room))))
      length += line.end - line.start
    }
    flush()
    return null
  }

  function nameOf(line: Line): string {
    const text = latin1(bytes.subarray(line.start, Math.min(line.end, line.start + 200)))
    return text.slice(0, Math.max(0, text.indexOf(':'))).trimEnd()
  }

  // A field name is printable ASCII without a colon, then perhaps blanks (RFC 5322 2.2, 4.5), then a colon.
  function isField(line: Line): boolean {
    let i = line.start
    while (i < line.end && bytes[i]! > 32 && bytes[i]! < 127 && bytes[i] !== 58) i++
    if (i === line.start) return false
    while (i < line.end && (bytes[i] === 32 || bytes[i] === 9)) i++
    return bytes[i] === 58 && i < line.end
  }

  function isBlank(line: Line): boolean {
    for (let i = line.start; i < line.end; i++) if (bytes[i] !== 32 && bytes[i] !== 9) return false
    return true
  }

  function startsWith(line: Line, start: Uint8Array): boolean {
    return line.end - line.start >= start.length && start.every((b, i) => bytes[line.start + i] === b)
  }

  function readContentFields(part: Part) {
    const types = values(part.fields, 'content-type').map(readParameters)
    const parent = open.at(-1)?.part
    // RFC 2046 5.1.5
    const fallback = parent?.type.value === 'multipart/digest' ? MESSAGE : TEXT
    for (const type of types) {
      if (!isType(type.value) || type.stray) {
        defects.add('unreadable Content-Type', type.value.slice(0, 80))
        repairType(type)
      }
    }
    part.type = types.find(t => t.value.startsWith('multipart/') && t.params.boundary) ?? types[0] ?? fallback
    const otherType = types.find(t => t !== part.type && t.value !== part.type.value)
    if (types.length > 1)
      defects.add(
        'two Content-Type fields',
        types
          .map(t => t.value)
          .join(', ')
          .slice(0, 200),
      )
    const encodings = values(part.fields, 'content-transfer-encoding').map(encodingOf)
    part.encoding = encodings[0] ?? ''
    const otherEncoding = encodings.find(e => e !== part.encoding)
    part.otherwise = { ...(otherType ? { type: otherType } : {}), ...(otherEncoding === undefined ? {} : { encoding: otherEncoding }) }
    const [disposition] = values(part.fields, 'content-disposition')
    if (disposition !== undefined) part.disposition = readParameters(disposition)
  }
}

interface Line {
  start: number
  end: number
}

const MBOX = Uint8Array.from([...'From '].map(c => c.charCodeAt(0)))
const NOTHING: Parameters = { value: '', params: {}, again: [], stray: false }
const TEXT: Parameters = { ...NOTHING, value: 'text/plain' }
const MESSAGE: Parameters = { ...NOTHING, value: 'message/rfc822' }

function newPart(bytes: Uint8Array, depth: number): Part {
  return {
    kind: 'leaf',
    fields: [],
    type: TEXT,
    disposition: NOTHING,
    encoding: '',
    bytes,
    bodyStart: 0,
    bodyEnd: bytes.length,
    depth,
    children: [],
    afterClose: false,
    aside: [],
    otherwise: {},
  }
}

function fieldOf(name: string, value: string): RawField {
  const text = utf8Text(value)
  return text === null ? { name, value, raw: true } : { name, value: text }
}

/**
 * Fields whose bytes are no UTF-8 (RFC 6532) get the character set that the body declares, for want of any word of their own.
 * @param charset what the first text declares; empty where nothing does
 */
export function settleRawFields(fields: readonly RawField[], charset: string): RawField[] {
  return fields.map(f => (f.raw ? { name: f.name, value: decodeText(bytesOfLatin1(f.value), charset).text } : f))
}

/** True if a part holds a whole message. */
export function isMessageType(type: string): boolean {
  return type === 'message/rfc822' || type === 'message/global' || type === 'message/news'
}

/** True if a transfer encoding has to be taken off before anything can be found inside. */
export function isEncoded(encoding: string): boolean {
  return encoding === 'base64' || encoding === 'quoted-printable'
}

function isType(type: string): boolean {
  const slash = type.indexOf('/')
  return slash > 0 && slash < type.length - 1 && !/[\s"(),:;<=>?@[\\\]]/.test(type) && type.indexOf('/', slash + 1) < 0
}

// RFC 2045 5.2: what makes no sense is text/plain. Where the type itself can be read ("text/html charset=x"), it counts.
function repairType(type: Parameters): void {
  const [first = '', ...rest] = type.value.split(/[\s,]/)
  type.value = isType(first) ? first : 'text/plain'
  const charset = rest.find(r => r.startsWith('charset='))
  if (charset && !('charset' in type.params)) type.params.charset = charset.slice('charset='.length).replaceAll('"', '')
}

function encodingOf(field: string): string {
  return readParameters(field).value.split(/\s/)[0] ?? ''
}

// Boundaries are compared as bytes; a name that came as UTF-8 is undone to them.
function latin1Name(boundary: string): string {
  const bare = boundary.trimEnd()
  return isEightBit(bare) ? latin1(new TextEncoder().encode(bare)) : bare
}

function values(fields: readonly RawField[], name: string): string[] {
  return fields.filter(f => f.name.toLowerCase() === name).map(f => f.value)
}

/** The first field of that name (case ignored), or undefined. */
export function fieldValue(fields: readonly RawField[], name: string): string | undefined {
  return fields.find(f => f.name.toLowerCase() === name)?.value
}

/** The header fields of a message, without reading its bodies. */
export function headerFields(bytes: Uint8Array): RawField[] {
  return settleRawFields(scanStructure(bytes.subarray(0, headerEnd(bytes))).fields, '')
}

// Where the empty line after the header begins; some bytes more do no harm.
function headerEnd(bytes: Uint8Array): number {
  for (let at = bytes.indexOf(LF); at >= 0; at = bytes.indexOf(LF, at + 1)) {
    if (bytes[at + 1] === LF || (bytes[at + 1] === CR && bytes[at + 2] === LF)) return at + 1
  }
  return bytes.length
}
