const LETTER_OR_DIGIT = /^[\p{L}\p{N}]/u
// A mark or an invisible character belongs to the letter before it; it ends no word and begins none.
const PASSED_OVER = /^[\p{M}\p{Default_Ignorable_Code_Point}]/u
// UAX #29 puts a boundary on each side of an ideograph or a hiragana letter.
const STANDS_ALONE = /^[\p{Script=Han}\p{Script=Hiragana}]/u
// … and between katakana and anything else.
const KATAKANA = /^[\p{Script=Katakana}\u3031-\u3035\u30A0\u30FC\uFF70]/u

/** True if the text right before `at` is part of the same word as what begins at `at`. */
export function continuesBefore(text: string, at: number): boolean {
  const before = baseBefore(text, at)
  if (before < 0) return false
  const unit = text.charCodeAt(before)
  if (unit < 128 && (!isAsciiWord(unit) || text.charCodeAt(at) < 128)) return isAsciiWord(unit)
  return LETTER_OR_DIGIT.test(codePoint(text, before)) && !standsAlone(text, before, at)
}

/** Where the character before `at` begins, marks and what nobody sees passed over; -1 where there is none. */
function baseBefore(text: string, at: number): number {
  let before = at
  do {
    if (before <= 0) return -1
    before -= before > 1 && isLowSurrogate(text.charCodeAt(before - 1)) ? 2 : 1
  } while (text.charCodeAt(before) >= 128 && PASSED_OVER.test(codePoint(text, before)))
  return before
}

/** True if the text from `at` on is part of the same word as what ends at `at`. */
export function continuesAfter(text: string, at: number): boolean {
  let after = at
  while (after < text.length && text.charCodeAt(after) >= 128 && PASSED_OVER.test(codePoint(text, after))) {
    // A combining mark changes the letter itself.
    if (/^\p{M}/u.test(codePoint(text, after))) return true
    after += codePoint(text, after).length
  }
  if (after >= text.length) return false
  const unit = text.charCodeAt(after)
  if (unit < 128 && !isAsciiWord(unit)) return false
  const last = baseBefore(text, at)
  if (unit < 128 && text.charCodeAt(last) < 128) return true
  return LETTER_OR_DIGIT.test(codePoint(text, after)) && !standsAlone(text, last, after)
}

/** Where a phrase of whole words may not go on: at an end that is a letter or digit. A sign is a word by itself (UAX #29). */
export interface WholeEnds {
  before: boolean
  after: boolean
}

/** The ends of a phrase, by its key. @param whole it counts as whole words only */
export function wholeEnds(key: string, whole: boolean): WholeEnds {
  const last = key.charCodeAt(key.length - 1)
  const lastAt = isLowSurrogate(last) ? key.length - 2 : key.length - 1
  return { before: whole && isOfWord(codePoint(key, 0)), after: whole && isOfWord(codePoint(key, lastAt)) }
}

function isOfWord(character: string): boolean {
  return LETTER_OR_DIGIT.test(character) || PASSED_OVER.test(character)
}

/** True if the stretch stands as whole words: on neither side does the original text go on with a letter or digit. */
export function isWholeWords(text: string, start: number, end: number, { before, after }: WholeEnds = BOTH_ENDS): boolean {
  return !(before && continuesBefore(text, start)) && !(after && continuesAfter(text, end))
}

const BOTH_ENDS: WholeEnds = { before: true, after: true }

const WORDS = /[\p{L}\p{N}][\p{L}\p{N}\p{M}]*/gu

/** Where each word of a text begins, in UTF-16 units. */
export function wordStarts(text: string): Uint32Array {
  const out: number[] = []
  for (const m of text.matchAll(WORDS)) out.push(m.index)
  return Uint32Array.from(out)
}

/** How many words stand between two stretches that do not overlap; 0 where they do. */
export function wordsBetween(starts: Uint32Array, a: { start: number, end: number }, b: { start: number, end: number }): number {
  const [first, second] = a.start <= b.start ? [a, b] : [b, a]
  return Math.max(0, lowerBound(starts, second.start) - lowerBound(starts, first.end))
}

function lowerBound(sorted: Uint32Array, value: number): number {
  let low = 0
  let high = sorted.length
  while (low < high) {
    const middle = (low + high) >>> 1
    if (sorted[middle]! < value) low = middle + 1
    else high = middle
  }
  return low
}

function standsAlone(text: string, a: number, b: number): boolean {
  const [before, after] = [codePoint(text, a), codePoint(text, b)]
  return STANDS_ALONE.test(before) || STANDS_ALONE.test(after) || KATAKANA.test(before) !== KATAKANA.test(after)
}

function codePoint(text: string, at: number): string {
  return at >= 0 && at < text.length ? String.fromCodePoint(text.codePointAt(at)!) : ''
}

function isAsciiWord(unit: number): boolean {
  return (unit >= 97 && unit <= 122) || (unit >= 65 && unit <= 90) || (unit >= 48 && unit <= 57)
}

function isLowSurrogate(unit: number): boolean {
  return unit >= 0xDC00 && unit <= 0xDFFF
}
