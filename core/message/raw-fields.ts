import { latin1 } from './bytes'

/** A header field by where its bytes are: signatures are over these. */
export interface FieldBytes {
  /** Lower case. */
  name: string
  /** The whole field without its last line end, folded as it is; one character a byte. */
  line: string
  /** After the colon. */
  value: string
  start: number
  /** Where the next field begins. */
  end: number
}

const LF = 10
const CR = 13
const BLANK = 32
const TAB = 9

/** Where the body of a message begins: after the first empty line. The length where there is none. */
export function bodyStart(bytes: Uint8Array): number {
  for (let at = bytes.indexOf(LF); at >= 0; at = bytes.indexOf(LF, at + 1)) {
    if (bytes[at + 1] === LF) return at + 2
    if (bytes[at + 1] === CR && bytes[at + 2] === LF) return at + 3
  }
  return bytes.length
}

/** The header fields of a message in their order, as lines ended by LF: a line that begins with white space continues a field. */
export function fieldBytes(bytes: Uint8Array, end: number): FieldBytes[] {
  const fields: FieldBytes[] = []
  let start = 0
  const close = (at: number) => {
    const line = latin1(bytes.subarray(start, at)).replace(/\r?\n$/, '')
    const colon = line.indexOf(':')
    if (colon >= 0)
      fields.push({
        name: /^[!-~]*/.exec(line.slice(0, colon))![0].toLowerCase(),
        line,
        value: line.slice(colon + 1),
        start,
        end: at,
      })
    start = at
  }
  for (let at = bytes.indexOf(LF); at >= 0 && at < end; at = bytes.indexOf(LF, at + 1)) {
    const next = bytes[at + 1]
    if (at + 1 >= end || (next !== BLANK && next !== TAB)) close(at + 1)
  }
  if (start < end) close(end)
  return fields
}
