/** A body with its transfer encoding taken off. */
export interface Plain {
  bytes: Uint8Array
  /** It ends in the middle of something. */
  cut: boolean
  /** It holds what its encoding has no place for, so that another reader may see something else in it. */
  stray: boolean
  /** Nobody knows the encoding; the bytes stand as they came. */
  unknown: boolean
}

/** Takes a Content-Transfer-Encoding off (RFC 2045 6), in one pass. @param encoding lower case */
export function transferDecoded(body: Uint8Array, encoding: string): Plain {
  if (encoding === 'base64') return decodeBase64(body)
  if (encoding === 'quoted-printable') return decodeQuotedPrintable(body)
  return { bytes: body, cut: false, stray: false, unknown: !['', '7bit', '8bit', 'binary'].includes(encoding) }
}

const PAD = 61
const BASE64 = new Int8Array(256).fill(-1)
for (const [i, c] of [...'ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789+/'].entries()) BASE64[c.charCodeAt(0)] = i

/**
 * Base64 (RFC 2045 6.8): what lies outside the alphabet is skipped. Padding ends a group of four, not the body, since
 * some readers go on after it.
 */
export function decodeBase64(body: Uint8Array): Plain {
  const out = new Uint8Array(Math.floor(body.length / 4) * 3 + 3)
  let length = 0
  let bits = 0
  let count = 0
  let cut = false
  let stray = false
  let padded = 0
  const flush = () => {
    if (count === 1) cut = true
    if (count > 1) out[length++] = (bits >> (count * 6 - 8)) & 0xff
    if (count === 3) out[length++] = (bits >> 2) & 0xff
    bits = 0
    count = 0
  }
  for (let i = 0; i < body.length; i++) {
    const c = body[i]!
    const value = BASE64[c]!
    if (value >= 0) {
      if (padded) {
        stray = true
        padded = 0
      }
      bits = (bits << 6) | value
      if (++count < 4) continue
      out[length++] = (bits >> 16) & 0xff
      out[length++] = (bits >> 8) & 0xff
      out[length++] = bits & 0xff
      bits = 0
      count = 0
    }
    else if (c === PAD) {
      if (count) {
        padded = 4 - count
        flush()
      }
      if (padded) padded--
    }
    else if (c !== 13 && c !== 10 && c !== 32 && c !== 9) {
      stray = true
    }
  }
  if (count) {
    cut = true
    flush()
  }
  return { bytes: out.subarray(0, length), cut, stray, unknown: false }
}

const HEX = new Int8Array(256).fill(-1)
for (let i = 0; i < 16; i++) {
  HEX['0123456789ABCDEF'.charCodeAt(i)] = i
  HEX['0123456789abcdef'.charCodeAt(i)] = i
}

/** Quoted-printable (RFC 2045 6.7): blanks at a line's end are discarded, a broken escape is kept as it stands. */
export function decodeQuotedPrintable(body: Uint8Array): Plain {
  const out = new Uint8Array(body.length)
  let length = 0
  let stray = false
  let cut = false
  /** Where the blanks began that may turn out to stand at a line's end. */
  let blanks = -1
  for (let i = 0; i < body.length; i++) {
    const c = body[i]!
    if (c > 32 && c !== PAD) {
      blanks = -1
      out[length++] = c
      continue
    }
    if (c === 32 || c === 9) {
      if (blanks < 0) blanks = length
    }
    else if (c === 10 || c === 13) {
      if (blanks >= 0) length = blanks
      blanks = -1
    }
    else {
      blanks = -1
    }
    if (c !== PAD) {
      out[length++] = c
      continue
    }
    const high = HEX[body[i + 1] ?? 0]!
    const low = HEX[body[i + 2] ?? 0]!
    if (high >= 0 && low >= 0) {
      out[length++] = (high << 4) | low
      i += 2
      continue
    }
    const next = endOfSoftBreak(body, i + 1)
    if (next >= 0) {
      i = next - 1
      continue
    }
    if (high >= 0 && i + 2 >= body.length) cut = true
    else stray = true
    out[length++] = c
  }
  if (blanks >= 0) length = blanks
  return { bytes: out.subarray(0, length), cut, stray, unknown: false }
}

// A soft line break is "=", blanks that a relay may have added, and the end of the line; where it ends, or -1. The search
// stops at a few blanks, so that lines of "= = = =" cost no more than their length.
const MAX_BLANKS = 80
function endOfSoftBreak(body: Uint8Array, from: number): number {
  let i = from
  while (i - from < MAX_BLANKS && (body[i] === 32 || body[i] === 9)) i++
  if (i >= body.length) return body.length
  if (body[i] === 10) return i + 1
  if (body[i] === 13) return body[i + 1] === 10 ? i + 2 : i + 1
  return -1
}
