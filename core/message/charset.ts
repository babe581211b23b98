import { bytesOfLatin1, isEightBit } from './bytes'
import { TextDecoder as StandardDecoder } from '@exodus/bytes/encoding.js'

/** Bytes read as text. */
export interface Decoded {
  text: string
  /** Nobody knows a character set of that name; it was read by the look of its bytes. */
  unknown: boolean
}

const utf8 = new TextDecoder('utf-8', { fatal: true })
const utf8Lenient = new TextDecoder('utf-8')

/**
 * Bytes as text by the WHATWG Encoding Standard: 0x80 in "iso-8859-1" is a euro sign there. The run time's own decoder is
 * asked for UTF-8 alone, since it reads windows-1252 as Latin-1 in some versions.
 * @param label as a message names it; empty where it says nothing. "us-ascii" is what programs say that do not know
 * better: with bytes beyond ASCII it is UTF-8 where it can be, as is what names nothing or nothing known.
 */
export function decodeText(bytes: Uint8Array, label: string): Decoded {
  const name = label
    .trim()
    .toLowerCase()
    .replace(/^["']|["']$/g, '')
  if (name === '' || name === 'us-ascii' || name === 'ascii' || name === 'unknown-8bit') return { text: guessed(bytes), unknown: false }
  if (name === 'utf-8' || name === 'utf8') return { text: utf8Lenient.decode(bytes), unknown: false }
  const decoder = decoderFor(name)
  return decoder ? { text: decoder.decode(bytes), unknown: false } : { text: guessed(bytes), unknown: true }
}

/** UTF-8 where the bytes can be that, else null. */
export function strictUtf8(bytes: Uint8Array): string | null {
  try {
    return utf8.decode(bytes)
  }
  catch {
    return null
  }
}

/** A text of one character a byte as UTF-8, where its bytes can be that, else null. */
export function utf8Text(latin1: string): string | null {
  return isEightBit(latin1) ? strictUtf8(bytesOfLatin1(latin1)) : latin1
}

function guessed(bytes: Uint8Array): string {
  return byteOrderMark(bytes) ?? strictUtf8(bytes) ?? decoderFor('windows-1252')!.decode(bytes)
}

// UTF-16 that says so by its first two bytes; UTF-8's own mark is taken off by its decoder.
function byteOrderMark(bytes: Uint8Array): string | null {
  if (bytes[0] === 0xff && bytes[1] === 0xfe) return decoderFor('utf-16le')!.decode(bytes)
  if (bytes[0] === 0xfe && bytes[1] === 0xff) return decoderFor('utf-16be')!.decode(bytes)
  return null
}

type Decoder = InstanceType<typeof StandardDecoder>

const decoders = new Map<string, Decoder | null>()
const MAX_LABELS = 500

function decoderFor(label: string): Decoder | null {
  const known = decoders.get(label)
  if (known !== undefined) return known
  let made: Decoder | null
  try {
    made = new StandardDecoder(label)
    // The standard's "replacement" stands for sets that must not be read at all, such as hz-gb-2312: one sign for the whole text.
    if (made.encoding === 'replacement') made = null
  }
  catch {
    made = null
  }
  if (decoders.size < MAX_LABELS) decoders.set(label, made)
  return made
}
