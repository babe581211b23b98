const LATIN1_PIECE = 32 * 1024

/** One character a byte, for scanning: code points 0 to 255, whatever the run time calls "latin1". */
export function latin1(bytes: Uint8Array): string {
  if (bytes.length <= LATIN1_PIECE) return String.fromCharCode.apply(null, bytes as unknown as number[])
  const pieces: string[] = []
  for (let at = 0; at < bytes.length; at += LATIN1_PIECE)
    pieces.push(String.fromCharCode.apply(null, bytes.subarray(at, at + LATIN1_PIECE) as unknown as number[]))
  return pieces.join('')
}

/** The bytes of a text that holds one byte a character. */
export function bytesOfLatin1(text: string): Uint8Array<ArrayBuffer> {
  const out = new Uint8Array(text.length)
  for (let i = 0; i < text.length; i++) out[i] = text.charCodeAt(i)
  return out
}

/** True if a text of one character a byte holds bytes beyond ASCII. */
export function isEightBit(text: string): boolean {
  for (let i = 0; i < text.length; i++) if (text.charCodeAt(i) > 127) return true
  return false
}

/** The bytes with each CRLF, and each CR that stands alone, as LF: text of whatever character set that ASCII is part of. */
export function withLineFeeds(bytes: Uint8Array): Uint8Array {
  let at = bytes.indexOf(13)
  if (at < 0) return bytes
  const out = new Uint8Array(bytes.length)
  out.set(bytes.subarray(0, at))
  let length = at
  for (; at < bytes.length; at++) {
    const byte = bytes[at]!
    if (byte !== 13) out[length++] = byte
    else if (bytes[at + 1] !== 10) out[length++] = 10
  }
  return out.subarray(0, length)
}

/** Pieces of bytes, one after the other. */
export function joinedBytes(pieces: readonly Uint8Array[]): Uint8Array {
  if (pieces.length === 1) return pieces[0]!
  const out = new Uint8Array(pieces.reduce((sum, p) => sum + p.length, 0))
  let at = 0
  for (const piece of pieces) {
    out.set(piece, at)
    at += piece.length
  }
  return out
}
