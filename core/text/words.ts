const WORD = /^[\p{L}\p{N}\p{M}]/u
const LETTER_OR_DIGIT = /^[\p{L}\p{N}]/u
// UAX #29 puts a boundary on each side of an ideograph or a hiragana letter.
const STANDS_ALONE = /^[\p{Script=Han}\p{Script=Hiragana}]/u

/** True if the text right before `at` is part of the same word as what begins at `at`. */
export function continuesBefore(text: string, at: number): boolean {
  if (at <= 0) return false
  let before = at
  do before -= before > 1 && isLowSurrogate(text.charCodeAt(before - 1)) ? 2 : 1
  while (before > 0 && /^\p{M}/u.test(codePoint(text, before)))
  return LETTER_OR_DIGIT.test(codePoint(text, before)) && !standsAlone(text, before, at)
}

/** True if the text from `at` on is part of the same word as what ends at `at`. */
export function continuesAfter(text: string, at: number): boolean {
  if (at >= text.length) return false
  const last = at > 1 && isLowSurrogate(text.charCodeAt(at - 1)) ? at - 2 : at - 1
  return WORD.test(codePoint(text, at)) && !standsAlone(text, last, at)
}

/** True if the stretch stands as whole words: on neither side does the original text go on with a letter or digit. */
export function isWholeWords(text: string, start: number, end: number): boolean {
  return !continuesBefore(text, start) && !continuesAfter(text, end)
}

function standsAlone(text: string, a: number, b: number): boolean {
  return STANDS_ALONE.test(codePoint(text, a)) || STANDS_ALONE.test(codePoint(text, b))
}

function codePoint(text: string, at: number): string {
  return at >= 0 && at < text.length ? String.fromCodePoint(text.codePointAt(at)!) : ''
}

function isLowSurrogate(unit: number): boolean {
  return unit >= 0xDC00 && unit <= 0xDFFF
}
