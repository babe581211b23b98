import { View } from './view'

const MAX_SEPARATOR = 1
const MIN_SPACED = 3
const SEPARATORS = new Set([...' .-_*,/|'].map(c => c.charCodeAt(0)))

/**
 * Joins single letters that are spaced apart, three or more: "r e l e a s e". Where words of such letters follow each
 * other, wider gaps stay as one space.
 */
export function joinSpaced(view: View): View {
  const runs = spacedRuns(view)
  if (!runs.length) return view
  const { units, source, length } = view
  const outUnits = new Uint16Array(length)
  const outStarts = new Uint32Array(length + 1)
  const joined: number[] = []
  let count = 0
  const keep = (from: number, to: number) => {
    for (let j = from; j < to; j++) {
      outUnits[count] = units[j]!
      outStarts[count++] = view.startOf(j)
    }
  }
  let at = 0
  for (const letters of runs) {
    keep(at, letters[0]![0])
    joined.push(count)
    for (const [from, to] of letters) keep(from, to)
    joined.push(count)
    at = letters.at(-1)![1]
  }
  keep(at, length)
  outStarts[count] = source.length
  return new View(outUnits, count, source, outStarts, joined)
}

/** Runs of letter, separator, letter, separator, … each separator one character wide in the source. */
function spacedRuns(view: View): [number, number][][] {
  const { units, length } = view
  const runs: [number, number][][] = []
  for (let i = 0; i < length;) {
    if (!isSingleLetter(view, i)) {
      i++
      continue
    }
    const letters: [number, number][] = []
    let end = i
    for (let at = i; isSingleLetter(view, at);) {
      end = characterEnd(view, at)
      letters.push([at, end])
      if (end + 1 >= length || !SEPARATORS.has(units[end]!) || view.startOf(end + 1) - view.startOf(end) !== MAX_SEPARATOR) break
      at = end + 1
    }
    if (letters.length >= MIN_SPACED) runs.push(letters)
    i = end
  }
  return runs
}

/** True if one character of the source that is a letter begins there, and no letter stands on either side of it. */
function isSingleLetter(view: View, at: number): boolean {
  if (!isLetterAt(view, at) || isLetterAt(view, at - 1)) return false
  return !isLetterAt(view, characterEnd(view, at))
}

/** Where the units of the source character at that unit end: a look-alike may stand for two ("m" for "rn"). */
function characterEnd(view: View, at: number): number {
  let end = at + 1
  while (end < view.length && view.startOf(end) === view.startOf(at)) end++
  return end
}

function isLetterAt({ units, length }: View, at: number): boolean {
  return at >= 0 && at < length && isLetter(units[at]!)
}

function isLetter(unit: number): boolean {
  if (unit < 128) return unit >= 97 && unit <= 122
  return /^\p{L}$/u.test(String.fromCharCode(unit))
}
