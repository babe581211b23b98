/**
 * A text as it is compared, with the way back: for every UTF-16 unit of `text`, where its source begins and ends.
 */
export interface View {
  text: string
  source: string
  /** starts[i]..ends[i] is the stretch of the source from which unit i came. */
  starts: Uint32Array
  ends: Uint32Array
}

// What continues the unit before it, so that NFKC sees the whole: combining marks, conjoining jamo after the first,
// half-width katakana sound marks.
const CONTINUES = /^[\p{M}\u1160-\u11FF\uD7B0-\uD7FB\uFF9E\uFF9F]/u
const SPACE = /^\s$/u

/**
 * One code point, case-folded (Unicode 3.13, full folding by way of upper case, so that ß and ss, σ and ς meet).
 * Dotless ı keeps to itself, as in CaseFolding.txt.
 */
export function foldCodePoint(c: string): string {
  if (c === 'ı') return c
  return c.toUpperCase().toLowerCase()
}

/** The plain view: NFKC, case folded by code point, every run of white space one space. */
export function plainView(source: string): View {
  let units: number[] | Uint16Array = new Uint16Array(source.length + 16)
  let starts = new Uint32Array(units.length)
  let ends = new Uint32Array(units.length)
  let length = 0

  const put = (text: string, start: number, end: number) => {
    if (length + text.length > units.length) {
      const size = (length + text.length) * 2
      const [u, s, e] = [new Uint16Array(size), new Uint32Array(size), new Uint32Array(size)]
      u.set(units); s.set(starts); e.set(ends)
      units = u; starts = s; ends = e
    }
    for (let i = 0; i < text.length; i++) {
      units[length] = text.charCodeAt(i)
      starts[length] = start
      ends[length] = end
      length++
    }
  }

  let at = 0
  while (at < source.length) {
    const unit = source.charCodeAt(at)
    const nextUnit = at + 1 < source.length ? source.charCodeAt(at + 1) : 0
    if (unit > 0x20 && unit < 0x7F && nextUnit < 0x300) {
      // ASCII that nothing combines with: the common case, without a regular expression.
      const folded = unit >= 65 && unit <= 90 ? unit + 32 : unit
      put(String.fromCharCode(folded), at, at + 1)
      at++
      continue
    }
    const c = String.fromCodePoint(source.codePointAt(at)!)
    if (SPACE.test(c)) {
      const start = at
      while (at < source.length && SPACE.test(source[at]!)) at++
      put(' ', start, at)
      continue
    }
    let end = at + c.length
    while (end < source.length && end - at < 64) {
      const next = String.fromCodePoint(source.codePointAt(end)!)
      if (!CONTINUES.test(next)) break
      end += next.length
    }
    put(foldCluster(source.slice(at, end)), at, end)
    at = end
  }
  return { text: decodeUnits(units as Uint16Array, length), source, starts: starts.subarray(0, length), ends: ends.subarray(0, length) }
}

function foldCluster(cluster: string): string {
  let out = ''
  for (const c of cluster.normalize('NFKC')) out += foldCodePoint(c)
  return out.normalize('NFKC').replace(/\s+/gu, ' ')
}

function decodeUnits(units: Uint16Array, length: number): string {
  let out = ''
  for (let i = 0; i < length; i += 8192) out += String.fromCharCode(...units.subarray(i, Math.min(i + 8192, length)))
  return out
}
