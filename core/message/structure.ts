import { headerText } from './bytes'
import type { Defect } from './types'

/** A header field as it stands: name, and the value unfolded but not decoded. */
export interface RawField {
  name: string
  value: string
}

/** A part of a message, by where its body lies in the bytes. */
export interface Part {
  fields: RawField[]
  /** Lower case; text/plain where nothing is said (RFC 2045 5.2). */
  type: string
  params: Record<string, string>
  encoding: string
  bodyStart: number
  bodyEnd: number
  depth: number
  multipart: boolean
}

export interface Structure {
  fields: RawField[]
  /** Every part in the order of the message, the message itself first. */
  parts: Part[]
  defects: Defect[]
}

const MOST_DEPTH = 50
const MOST_FIELDS = 2000
const MOST_FIELD_BYTES = 64 * 1024
const MOST_PARTS = 5000
const LF = 10
const CR = 13
const DASH = 45

/**
 * Finds header fields and parts in one pass over the bytes, without decoding any body. It keeps a stack of open
 * boundaries, so that hostile nesting costs no more than its length.
 */
export function scanStructure(bytes: Uint8Array): Structure {
  const defects = new DefectList()
  const parts: Part[] = []
  const open: { part: Part, boundary: string }[] = []
  let current: Part | null = newPart(0)
  let fieldLines: { start: number, end: number }[] = []
  let inHeader = true
  parts.push(current)
  if (bytes.length === 0) defects.add('empty message', 'there are no bytes')

  let at = 0
  while (at < bytes.length) {
    let eol = bytes.indexOf(LF, at)
    if (eol < 0) eol = bytes.length
    const next = Math.min(eol + 1, bytes.length)
    const end = eol > at && bytes[eol - 1] === CR ? eol - 1 : eol
    const delimiter = open.length && bytes[at] === DASH && bytes[at + 1] === DASH ? findDelimiter(at, end) : null
    if (delimiter) {
      if (current && inHeader) finishHeader(at)
      if (current && !current.multipart) current.bodyEnd = bodyEndBefore(at, current.bodyStart)
      for (const left of open.splice(delimiter.depth + 1)) neverCloses(left.boundary)
      if (delimiter.closes) {
        open.pop()
        current = null
        inHeader = false
      }
      else if (parts.length >= MOST_PARTS) {
        defects.add('body not fully readable', `more than ${MOST_PARTS} parts`)
        current = null
        inHeader = false
      }
      else {
        current = newPart(delimiter.depth + 1)
        current.bodyStart = next
        parts.push(current)
        inHeader = true
      }
    }
    else if (inHeader && current) {
      if (end === at) {
        finishHeader(next)
        inHeader = false
      }
      else {
        fieldLines.push({ start: at, end })
      }
    }
    at = next
  }
  if (current && inHeader) finishHeader(bytes.length)
  if (current && !current.multipart) current.bodyEnd = bytes.length
  for (const left of open) neverCloses(left.boundary)
  return { fields: parts[0]!.fields, parts, defects: defects.list }

  function neverCloses(boundary: string) {
    defects.add('boundary never closes', `“${boundary.slice(0, 80)}” has no closing line`)
  }

  function findDelimiter(start: number, end: number): { depth: number, closes: boolean } | null {
    if (end - start > 220) return null // a boundary is 70 characters at most (RFC 2046 5.1.1); some leeway
    const line = headerText(bytes.subarray(start + 2, end)).trimEnd()
    for (let depth = open.length - 1; depth >= 0; depth--) {
      const { boundary } = open[depth]!
      if (line === boundary) return { depth, closes: false }
      if (line === `${boundary}--`) return { depth, closes: true }
    }
    return null
  }

  // The line break before a delimiter belongs to the delimiter (RFC 2046 5.1.1).
  function bodyEndBefore(delimiterStart: number, bodyStart: number): number {
    let end = delimiterStart
    if (end > bodyStart && bytes[end - 1] === LF) end--
    if (end > bodyStart && bytes[end - 1] === CR) end--
    return Math.max(end, bodyStart)
  }

  function finishHeader(bodyStart: number) {
    const part = current!
    part.fields = readFields(fieldLines)
    fieldLines = []
    part.bodyStart = bodyStart
    part.bodyEnd = bytes.length
    const contentType = readParameters(fieldValue(part.fields, 'content-type') ?? 'text/plain')
    part.type = contentType.value
    part.params = contentType.params
    part.encoding = readParameters(fieldValue(part.fields, 'content-transfer-encoding') ?? '7bit').value
    if (!part.type.startsWith('multipart/')) return
    const boundary = part.params.boundary?.trimEnd()
    if (!boundary) {
      defects.add('boundary missing', `${part.type} names no boundary`)
      return
    }
    if (open.length >= MOST_DEPTH) {
      defects.add('nested too deep', `parts lie more than ${MOST_DEPTH} deep`)
      return
    }
    part.multipart = true
    open.push({ part, boundary })
  }

  function readFields(lines: { start: number, end: number }[]): RawField[] {
    const fields: RawField[] = []
    let pieces: string[] = []
    let length = 0
    const flush = () => {
      if (!pieces.length) return
      const text = pieces.join('')
      pieces = []
      length = 0
      const colon = text.indexOf(':')
      const name = text.slice(0, Math.max(colon, 0)).trimEnd()
      if (colon > 0 && /^[\x21-\x39\x3B-\x7E]+$/.test(name)) fields.push({ name, value: text.slice(colon + 1).trim() })
      else defects.add('line without a field name', text.slice(0, 80))
    }
    for (const line of lines) {
      if (fields.length >= MOST_FIELDS) {
        defects.add('too many header fields', `more than ${MOST_FIELDS}`)
        return fields
      }
      const folded = bytes[line.start] === 32 || bytes[line.start] === 9
      if (!folded) flush()
      const room = MOST_FIELD_BYTES - length
      if (line.end - line.start > room) defects.add('too many header fields', `a field longer than ${MOST_FIELD_BYTES} bytes`)
      const text = headerText(bytes.subarray(line.start, Math.min(line.end, line.start + Math.max(room, 0))))
      // An mbox "From " line may have been left on top by a careless export.
      if (fields.length === 0 && !pieces.length && /^From \s*[^\s:]/.test(text)) continue
      pieces.push(text)
      length += line.end - line.start
    }
    flush()
    return fields
  }
}

function newPart(depth: number): Part {
  return { fields: [], type: 'text/plain', params: {}, encoding: '7bit', bodyStart: 0, bodyEnd: 0, depth, multipart: false }
}

/** The first field of that name (case ignored), or undefined. */
export function fieldValue(fields: readonly RawField[], name: string): string | undefined {
  return fields.find(f => f.name.toLowerCase() === name)?.value
}

/** The value and parameters of a Content-Type or Content-Disposition field (RFC 2045 5.1; continuations left as they are). */
export function readParameters(field: string): { value: string, params: Record<string, string> } {
  const [head = ''] = field.split(';', 1)
  const params: Record<string, string> = {}
  const pattern = /;\s*([^\s=;"]+)\s*=\s*(?:"((?:\\.|[^"\\])*)"|([^\s;]*))/g
  for (const [, name, quoted, plain] of field.matchAll(pattern)) {
    const key = name!.toLowerCase()
    if (!(key in params)) params[key] = quoted !== undefined ? quoted.replace(/\\(.)/g, '$1') : plain ?? ''
  }
  return { value: head.replace(/\([^)]*\)/g, '').trim().toLowerCase(), params }
}

/** Defects, each kind once: hostile mail must not make the list long. */
export class DefectList {
  readonly list: Defect[] = []
  add(code: Defect['code'], detail: string): void {
    if (!this.list.some(d => d.code === code)) this.list.push({ code, detail })
  }
}

/** The header fields of a message, without reading its bodies. */
export function headerFields(bytes: Uint8Array): RawField[] {
  return scanStructure(bytes.subarray(0, headerEnd(bytes))).fields
}

// Where the empty line after the header begins; some bytes more do no harm.
function headerEnd(bytes: Uint8Array): number {
  for (let at = bytes.indexOf(LF); at >= 0; at = bytes.indexOf(LF, at + 1)) {
    if (bytes[at + 1] === LF || (bytes[at + 1] === CR && bytes[at + 2] === LF)) return at + 1
  }
  return bytes.length
}
