const FROM = [0x46, 0x72, 0x6F, 0x6D, 0x20] // "From "
const LF = 10

/**
 * Splits an mbox file into messages (RFC 4155; ">From " lines are returned their "From ", as mboxrd does).
 * Bytes before the first "From " line are given as a message of their own, so that nothing is lost.
 */
export function* readMbox(bytes: Uint8Array): Generator<{ separator: string, message: Uint8Array }> {
  let separator = ''
  let start = 0
  for (let at = 0; at < bytes.length;) {
    const eol = lineEnd(bytes, at)
    if (startsWithFrom(bytes, at) && (at === 0 || blankBefore(bytes, at))) {
      if (at > start) yield { separator, message: unescape(bytes.subarray(start, trimOneBreak(bytes, start, at))) }
      separator = new TextDecoder('latin1').decode(bytes.subarray(at, eol)).trimEnd()
      start = eol
    }
    at = eol
  }
  if (bytes.length > start) yield { separator, message: unescape(bytes.subarray(start, trimOneBreak(bytes, start, bytes.length))) }
}

/** True if a file begins as an mbox does. */
export function looksLikeMbox(bytes: Uint8Array): boolean {
  return startsWithFrom(bytes, 0)
}

function lineEnd(bytes: Uint8Array, at: number): number {
  const lf = bytes.indexOf(LF, at)
  return lf < 0 ? bytes.length : lf + 1
}

function startsWithFrom(bytes: Uint8Array, at: number): boolean {
  return FROM.every((b, i) => bytes[at + i] === b)
}

function blankBefore(bytes: Uint8Array, at: number): boolean {
  return bytes[at - 1] === LF && (bytes[at - 2] === LF || (bytes[at - 2] === 13 && bytes[at - 3] === LF) || at < 3)
}

function trimOneBreak(bytes: Uint8Array, start: number, end: number): number {
  if (end - 1 > start && bytes[end - 1] === LF && bytes[end - 2] === LF) return end - 1
  if (end - 3 > start && bytes[end - 1] === LF && bytes[end - 2] === 13 && bytes[end - 3] === LF) return end - 2
  return end
}

// A line of ">"s followed by "From ".
function quotedFrom(bytes: Uint8Array, at: number, least: number): boolean {
  let i = at
  while (bytes[i] === 0x3E) i++
  return i - at >= least && startsWithFrom(bytes, i)
}

function unescape(bytes: Uint8Array): Uint8Array {
  return mapLines(bytes, (line, at) => quotedFrom(bytes, at, 1) ? [line.subarray(1)] : [line])
}

function mapLines(bytes: Uint8Array, map: (line: Uint8Array, at: number) => Uint8Array[]): Uint8Array {
  const parts: Uint8Array[] = []
  for (let at = 0; at < bytes.length;) {
    const end = lineEnd(bytes, at)
    parts.push(...map(bytes.subarray(at, end), at))
    at = end
  }
  return concat(parts)
}

function concat(parts: readonly Uint8Array[]): Uint8Array {
  const out = new Uint8Array(parts.reduce((n, p) => n + p.length, 0))
  let at = 0
  for (const part of parts) {
    out.set(part, at)
    at += part.length
  }
  return out
}
