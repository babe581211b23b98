import { effectsOnMessage, type Effect } from '../kinds'
import { encodedWords } from './encode-words'

const LF = 10

/**
 * A message as it is delivered: header fields that effects add stand on top, a mark stands before the subject. Bytes of
 * the message itself are not touched otherwise. What could break out of a field is taken out of values.
 */
export function deliveredBytes(bytes: Uint8Array, effects: readonly Effect[]): Uint8Array {
  const { headers, before } = effectsOnMessage(effects)
  const added = headers.map(fieldLine).filter(l => l !== null)
  const marked = before === null ? bytes : withVerdict(bytes, encodedWord(before))
  if (!added.length) return marked
  const head = new TextEncoder().encode(added.map(l => `${l}\r\n`).join(''))
  const out = new Uint8Array(head.length + marked.length)
  out.set(head)
  out.set(marked, head.length)
  return out
}

function fieldLine(value: string): string | null {
  const field = /^([!-9;-~]{1,76}):(.*)$/s.exec(value.replace(/[\r\n]+/g, ' '))
  return field ? `${field[1]}: ${encodedWord(field[2]!)}` : null
}

// A value must not begin a field of its own.
function encodedWord(text: string): string {
  return encodedWords(text.replace(/[\r\n]+/g, ' ').trim()).join(' ')
}

function withVerdict(bytes: Uint8Array, prefix: string): Uint8Array {
  for (let at = 0; at < bytes.length;) {
    const eol = bytes.indexOf(LF, at)
    const end = eol < 0 ? bytes.length : eol + 1
    if (end - at <= 2) break // the empty line after the header
    const name = new TextDecoder('latin1').decode(bytes.subarray(at, Math.min(at + 8, end)))
    if (/^subject:/i.test(name)) return spliced(bytes, at + 8, ` ${prefix}`)
    at = end
  }
  return spliced(bytes, 0, `Subject: ${prefix}\r\n`)
}

function spliced(bytes: Uint8Array, at: number, text: string): Uint8Array {
  const middle = new TextEncoder().encode(text)
  const out = new Uint8Array(bytes.length + middle.length)
  out.set(bytes.subarray(0, at))
  out.set(middle, at)
  out.set(bytes.subarray(at), at + middle.length)
  return out
}
