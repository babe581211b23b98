import { characterAt, isSpace, seesThrough, standsFree, tableOf, type ViewForm } from './forms'
import { kernel, PHASE } from './kernel'
import { PIECE } from './kernel-layout'
import type { PhraseIndex } from './phrase-index'
import { joinSpaced } from './spaced'
import { Breaks, View } from './view'

/** Room for one view after another: whoever scans a view and is done with it need not make arrays each time. */
export class ViewBuffer {
  units = new Uint16Array(4096)
  starts = new Uint32Array(4097)
  readonly breaks = new Breaks()

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
  // Which way is taken makes no difference to what is seen; the tests hold one against the other.
  if (buffer && !seesThrough(form)) return quickView(source, form, buffer)
  const writer = new Writer(source, buffer, true)
  writeCharacters(source, 0, source.length, form, writer)
  const view = writer.view()
  return seesThrough(form) ? joinSpaced(view) : view
}

/**
 * Looks for keys in a text in one of the forms. Of a long text no more is kept than it takes to look.
 * @param found called for every occurrence, for one key in the order of the text, with the unit at which it begins and a view
 * that knows the places of its units; its text is not to be had
 */
export function scanText(
  source: string,
  form: ViewForm,
  index: PhraseIndex,
  buffer: ViewBuffer,
  found: (key: number, start: number, view: View) => void,
): void {
  if (seesThrough(form)) {
    const view = viewOf(source, form, buffer)
    index.scan(view.units, view.length, (key, start) => found(key, start, view))
    return
  }
  // The places of a key's units are asked, and that of the unit before it.
  const kept = Math.ceil(index.longest / PHASE + 1) * PHASE
  const writer = new Writer(source, buffer, false, Math.min(source.length, PIECE))
  const view = writer.viewSoFar()
  const note = (key: number, start: number) => found(key, start + writer.base, view)
  let seen = 0
  writePieces(source, form, writer, () => {
    const here = writer.count - writer.base
    // A key is compared, and its end has its place, once there is a unit after it.
    const until = Math.floor((here - index.longest - 1) / PHASE) * PHASE
    if (until <= seen) return
    index.scanPart(writer.units, seen, until, here, note)
    seen = until - writer.drop(until - kept)
  })
  writer.end()
  index.scanPart(writer.units, seen, writer.count - writer.base, writer.count - writer.base, note)
}

/** Takes a view down, unit by unit. */
class Writer {
  units: Uint16Array
  /** Of all that was written, also of what was discarded. */
  count = 0
  /** How many units were discarded: the first in `units` is that one. */
  base = 0
  private starts: Uint32Array | null
  private readonly breaks: Breaks
  /** The place that the next unit has unless something breaks off. */
  private next = 0

  /**
   * @param each keep the place of each unit, which is quicker to ask; otherwise only where places break off
   * @param units how many there is room for
   */
  constructor(
    private readonly source: string,
    buffer: ViewBuffer | undefined,
    each: boolean,
    units = source.length,
  ) {
    buffer?.room(units + 8)
    this.units = buffer?.units ?? new Uint16Array(units + 8)
    this.breaks = buffer?.breaks ?? new Breaks()
    this.breaks.clear()
    this.starts = each ? (buffer?.starts ?? new Uint32Array(source.length + 9)) : null
  }

  put(unit: number, place: number): void {
    if (this.starts) this.starts[this.count] = place
    else this.comeTo(place)
    this.units[this.count++ - this.base] = unit
    this.next = place + 1
  }

  /** Where the next unit begins, if that is not right after the one before. */
  comeTo(place: number, count = this.count): void {
    if (place !== this.next) this.breaks.add(count, place)
    this.next = place
  }

  /**
   * The ASCII characters of a text that the kernel has taken in.
   * @param from the byte from which on
   * @param shift what makes a place of a byte
   * @returns the byte at which they end
   */
  putTaken(from: number, length: number, goesOn: boolean, shift: number): number {
    const { count } = this
    this.comeTo(from + shift)
    const { made, stop, breaks } = kernel().fold(from, length, goesOn, this.units, count - this.base)
    for (let i = 0; i < breaks.length; i += 2) this.breaks.add(count + breaks[i]!, shift + breaks[i + 1]!)
    this.count += made
    this.next = stop + shift
    return stop
  }

  /** Makes room for so many more units. */
  room(more: number): void {
    const wanted = this.count - this.base + more + 1
    if (wanted <= this.units.length) return
    this.units = grownTo(this.units, wanted * 2)
    if (this.starts) this.starts = grownTo(this.starts, wanted * 2 + 1)
  }

  /** Drops units from the first on, if that is worth the while. @returns how many */
  drop(units: number): number {
    if (units < PIECE / 2) return 0
    this.units.copyWithin(0, units, this.count - this.base)
    this.base += units
    this.breaks.forgetBefore(this.base)
    return units
  }

  /** Writes down where the last unit ends. */
  end(): void {
    if (this.starts) this.starts[this.count] = this.source.length
    else this.comeTo(this.source.length)
  }

  /** A view that learns places as they are written. It knows neither its units nor where it ends. */
  viewSoFar(): View {
    return new View(NO_UNITS, Infinity, this.source, this.breaks)
  }

  view(): View {
    this.end()
    return new View(this.units, this.count, this.source, this.starts ?? this.breaks)
  }
}

const NO_UNITS = new Uint16Array(0)

function grownTo<T extends Uint16Array | Uint32Array>(array: T, size: number): T {
  const more = new (array.constructor as new (size: number) => T)(size)
  more.set(array)
  return more
}

/**
 * Writes the characters from `at` on, up to one that begins at `end` or beyond.
 * @returns where it stopped: what belongs together is not torn apart
 */
function writeCharacters(source: string, at: number, end: number, form: ViewForm, writer: Writer): number {
  const table = tableOf(form)
  const { single } = table
  const { length } = source
  while (at < end) {
    const unit = source.charCodeAt(at)
    const known = single[unit]!
    if (known !== 0 && (at + 1 === length || standsFree(source.charCodeAt(at + 1)))) {
      writer.put(known, at++)
      continue
    }
    if (isSpace(source, at)) {
      writer.put(32, at++)
      while (at < length && isSpace(source, at)) at++
      continue
    }
    const first = characterAt(source, at)
    if (table.passesOver(first)) {
      at += first.length
      continue
    }
    const stop = table.clusterEnd(source, at)
    const out = table.become(source.slice(at, stop))
    writer.room(out.length + Math.max(0, end - stop))
    for (let i = 0; i < out.length; i++) writer.put(out.charCodeAt(i), at)
    at = stop
  }
  return at
}

function quickView(source: string, form: ViewForm, buffer: ViewBuffer): View {
  const writer = new Writer(source, buffer, false)
  writePieces(source, form, writer, () => {})
  return writer.view()
}

// What is ASCII goes through the kernel; what is not, with the character before it, is looked at closely.
function writePieces(source: string, form: ViewForm, writer: Writer, written: () => void): void {
  const { length } = source
  for (let begin = 0; begin < length;) {
    const end = pieceEnd(source, begin)
    writer.room(end - begin)
    const bytes = kernel().take(begin === 0 && end === length ? source : source.slice(begin, end))
    let at = begin
    for (let byte = 0; byte < bytes;) {
      const stop = writer.putTaken(byte, bytes, end < length, at - byte)
      at += stop - byte
      if (at >= end) break
      const next = writeUntilAscii(source, at, end, form, writer)
      byte = stop + utf8Length(source, at, next)
      at = next
      writer.room(Math.max(0, end - at))
    }
    begin = at
    written()
  }
}

function pieceEnd(source: string, begin: number): number {
  const end = begin + PIECE
  if (end >= source.length) return source.length
  // Not between two halves of a character.
  return (source.charCodeAt(end - 1) & 0xfc00) === 0xd800 ? end - 1 : end
}

/** So many ASCII characters in a row are worth a call. */
const WORTH = 24

// At least one character, with the next one that is not ASCII if there is one, then on until only ASCII follows for a while.
function writeUntilAscii(source: string, from: number, end: number, form: ViewForm, writer: Writer): number {
  let at = from
  for (let other = nextOther(source, from, end); ; other = nextOther(source, at, Math.min(end, at + WORTH))) {
    if (other < 0 && at > from) return at
    at = writeCharacters(source, at, Math.max(other, at) + 1, form, writer)
    if (at >= end) return at
  }
}

function nextOther(source: string, from: number, end: number): number {
  for (let i = from; i < end; i++) if (source.charCodeAt(i) >= 128) return i
  return -1
}

function utf8Length(source: string, from: number, to: number): number {
  let bytes = 0
  for (let i = from; i < to; i++) {
    const unit = source.charCodeAt(i)
    // Each half of a pair makes two of its four bytes; a half alone makes three, as what replaces it does.
    bytes += unit < 0x80 ? 1 : unit < 0x800 ? 2 : unit < 0xd800 || unit > 0xdfff ? 3 : isPaired(source, i, unit) ? 2 : 3
  }
  return bytes
}

function isPaired(source: string, at: number, unit: number): boolean {
  return unit < 0xdc00 ? (source.charCodeAt(at + 1) & 0xfc00) === 0xdc00 : (source.charCodeAt(at - 1) & 0xfc00) === 0xd800
}
