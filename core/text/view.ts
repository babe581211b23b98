import { prototypeOf } from './confusables'
import { foldCodePoint } from './folding'

/**
 * Forms in which text is compared. `undisguised` is two: the skeleton of the folded text, and the fold of the skeleton
 * of the unfolded text; some look-alikes only show in one of them (capital I for l).
 */
export type ViewForm = 'plain' | 'bare' | 'skeleton of fold' | 'fold of skeleton'
export type ViewName = 'plain' | 'bare' | 'undisguised'

export const FORMS_OF: Record<ViewName, readonly ViewForm[]> = {
  plain: ['plain'],
  bare: ['bare'],
  undisguised: ['skeleton of fold', 'fold of skeleton'],
}

/** A text as it is compared, with the way back: the source of unit i begins at starts[i] and ends at starts[i + 1]. */
export interface View {
  /** The units; the array may be longer than `length`. */
  units: Uint16Array
  starts: Uint32Array
  /** How many units there are. */
  length: number
  source: string
  /** Stretches of units where single letters spaced apart were joined; begin and end in turn. */
  joined: number[]
}

// What continues the unit before it, so that normalisation sees the whole: combining marks, conjoining jamo after the
// first, half-width katakana sound marks.
const CONTINUES = /^[\p{M}\u1160-\u11FF\uD7B0-\uD7FB\uFF9E\uFF9F]/u
const SPACE = /^\s$/u
const INVISIBLE = /^\p{Default_Ignorable_Code_Point}$/u
const LONGEST_CLUSTER = 64
// Common swaps of digits and signs for letters. i and l go together, since 1 stands for both.
const SWAPS: Record<string, string> = { '0': 'o', '1': 'l', '3': 'e', '4': 'a', '5': 's', '7': 't', '8': 'b', '@': 'a', '$': 's', '!': 'l', 'i': 'l', 'ı': 'l' }

const swapped = (text: string) => {
  let out = ''
  for (const c of text) out += SWAPS[c] ?? c
  return out
}
const folded = (text: string) => {
  let out = ''
  for (const c of text) out += foldCodePoint(c)
  return out
}
const prototyped = (text: string) => {
  let out = ''
  for (const c of text.normalize('NFD')) out += prototypeOf(c)
  return out
}
const unmarked = (text: string) => text.normalize('NFD').replace(/\p{M}/gu, '').normalize('NFC')

/** What a cluster (a character with what continues it) becomes in a form. */
const TRANSFORM: Record<ViewForm, (cluster: string) => string> = {
  'plain': c => folded(c.normalize('NFKC')).normalize('NFKC'),
  'bare': c => unmarked(folded(c.normalize('NFKC'))),
  'skeleton of fold': c => swapped(unmarked(prototyped(folded(c.normalize('NFKC'))))),
  'fold of skeleton': c => swapped(unmarked(folded(prototyped(c.normalize('NFKC'))))),
}

interface FormTables {
  /** By code unit: the one unit that it becomes; 0 for what needs a closer look. */
  single: Uint16Array
  cache: Map<string, string>
}
const tables = new Map<ViewForm, FormTables>()

// Units that stand by themselves and become one unit are looked up; the table fills as text comes.
function tablesOf(form: ViewForm): FormTables {
  let found = tables.get(form)
  if (!found) {
    found = { single: new Uint16Array(65_536), cache: new Map() }
    for (let c = 0x21; c < 0x7F; c++) {
      const out = TRANSFORM[form](String.fromCharCode(c))
      if (out.length === 1) found.single[c] = out.charCodeAt(0)
    }
    tables.set(form, found)
  }
  return found
}

/** True for units after which nothing can combine with what stands before them, and that are no white space. */
function standsFree(unit: number): boolean {
  return unit < 0x300 || (unit >= 0x2010 && unit <= 0x2027) || (unit >= 0x20A0 && unit <= 0x20BF)
}

/** Room for one view after another: whoever scans a view and is done with it need not make arrays each time. */
export class ViewBuffer {
  units = new Uint16Array(4096)
  starts = new Uint32Array(4097)

  room(length: number): void {
    if (this.units.length >= length) return
    this.units = new Uint16Array(length * 2)
    this.starts = new Uint32Array(length * 2 + 1)
  }
}

/**
 * A text in one of the forms.
 * @param buffer room to put it in; the view then holds until the buffer's next use
 */
export function viewOf(source: string, form: ViewForm, buffer?: ViewBuffer): View {
  const { single, cache } = tablesOf(form)
  const undisguise = form === 'skeleton of fold' || form === 'fold of skeleton'
  const length = source.length
  buffer?.room(length + 8)
  let units = buffer?.units ?? new Uint16Array(length + 8)
  let starts = buffer?.starts ?? new Uint32Array(length + 9)
  let count = 0

  for (let at = 0; at < length;) {
    const unit = source.charCodeAt(at)
    if (unit === 32 || unit === 10) {
      const start = at++
      while (at < length && isSpace(source, at)) at++
      units[count] = 32
      starts[count++] = start
      continue
    }
    const known = single[unit]!
    if (known !== 0 && (at + 1 === length || standsFree(source.charCodeAt(at + 1)))) {
      units[count] = known
      starts[count++] = at++
      continue
    }
    if (isSpace(source, at)) {
      const start = at++
      while (at < length && isSpace(source, at)) at++
      units[count] = 32
      starts[count++] = start
      continue
    }
    const first = String.fromCodePoint(source.codePointAt(at)!)
    if (undisguise && INVISIBLE.test(first)) {
      at += first.length
      continue
    }
    let end = at + first.length
    while (end < length && end - at < LONGEST_CLUSTER) {
      const next = String.fromCodePoint(source.codePointAt(end)!)
      if (!CONTINUES.test(next) && !(undisguise && INVISIBLE.test(next))) break
      end += next.length
    }
    const cluster = undisguise ? source.slice(at, end).replace(/\p{Default_Ignorable_Code_Point}/gu, '') : source.slice(at, end)
    let out = cache.get(cluster)
    if (out === undefined) {
      out = TRANSFORM[form](cluster).replace(/\s+/gu, ' ')
      if (cache.size < 20_000) cache.set(cluster, out)
      if (cluster.length === 1 && out.length === 1 && standsFree(unit) && !SPACE.test(cluster)) single[unit] = out.charCodeAt(0)
    }
    // Elsewhere one character makes one unit at most; only here there may be more than there is room for.
    const wanted = count + out.length + (length - end) + 1
    if (wanted > units.length) {
      units = grownTo(units, wanted * 2)
      starts = grownTo(starts, wanted * 2 + 1)
    }
    for (let i = 0; i < out.length; i++) {
      units[count] = out.charCodeAt(i)
      starts[count++] = at
    }
    at = end
  }
  starts[count] = length
  const view = { units, starts, length: count, source, joined: NONE }
  return undisguise ? joinSpaced(view) : view
}

function grownTo<T extends Uint16Array | Uint32Array>(array: T, size: number): T {
  const more = new (array.constructor as new (size: number) => T)(size)
  more.set(array)
  return more
}

function isSpace(source: string, at: number): boolean {
  const unit = source.charCodeAt(at)
  if (unit < 128) return unit === 32 || (unit >= 9 && unit <= 13)
  return unit >= 0xA0 && SPACE.test(source[at]!)
}

const NONE: number[] = []
const MOST_SEPARATOR = 1
const LEAST_SPACED = 3
const SEPARATORS = new Set([...' .-_*,/|'].map(c => c.charCodeAt(0)))

/**
 * Joins single letters that are spaced apart, three or more: "r e l e a s e". Where words of such letters follow each
 * other, wider gaps stay as one space.
 */
function joinSpaced(view: View): View {
  const runs = spacedRuns(view)
  if (!runs.length) return view
  const { units, starts, source, length } = view
  const outUnits = new Uint16Array(length)
  const outStarts = new Uint32Array(length + 1)
  const joined: number[] = []
  let count = 0
  const keep = (from: number, to: number) => {
    for (let j = from; j < to; j++) {
      outUnits[count] = units[j]!
      outStarts[count++] = starts[j]!
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
  return { units: outUnits, starts: outStarts, length: count, source, joined }
}

/** Runs of letter, separator, letter, separator, … each separator one character wide in the source. */
function spacedRuns(view: View): [number, number][][] {
  const { units, starts, length } = view
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
      if (end + 1 >= length || !SEPARATORS.has(units[end]!) || starts[end + 1]! - starts[end]! !== MOST_SEPARATOR) break
      at = end + 1
    }
    if (letters.length >= LEAST_SPACED) runs.push(letters)
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
function characterEnd({ starts, length }: View, at: number): number {
  let end = at + 1
  while (end < length && starts[end] === starts[at]) end++
  return end
}

function isLetterAt({ units, length }: View, at: number): boolean {
  return at >= 0 && at < length && isLetter(units[at]!)
}

function isLetter(unit: number): boolean {
  if (unit < 128) return unit >= 97 && unit <= 122
  return /^\p{L}$/u.test(String.fromCharCode(unit))
}

/** A view's text as a string. */
export function viewText(view: View): string {
  let out = ''
  for (let i = 0; i < view.length; i += 8192) out += String.fromCharCode(...view.units.subarray(i, Math.min(i + 8192, view.length)))
  return out
}
