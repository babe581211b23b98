import { KERNEL } from './kernel-code'

interface Loops {
  fold(source: number, from: number, length: number, units: number, breaks: number, goesOn: number): number
  hash(gram: number, size: number): number
  scan(units: number, until: number, size: number, stride: number, bits: number, shift: number, found: number): number
}

/** Units that one call takes; longer texts are given in pieces, small enough for the nearest cache. */
export const PIECE = 8192
/** What the loops may read beyond their end. */
const MARGIN = 16
const PAGE = 65_536
/** Units by which a scan goes on: a multiple of every stride, so that all pieces are asked at the same units. */
const STEP = Math.floor((PIECE - MARGIN) / 24) * 24

// The module's memory: a text in UTF-8, its units, its breaks, what was found; from there on sets of grams.
const SOURCE = 0
const UNITS = SOURCE + 3 * PIECE + MARGIN
const BREAKS = UNITS + 2 * (PIECE + MARGIN)
const FOUND = BREAKS + 8 * (PIECE / 2 + 2)
const SETS = FOUND + 8 * PIECE
/** Sets of policies that are gone are cleared away when all together are larger. */
const MOST_SETS = 64 * 1024 * 1024

/** What is looked for: grams of one size, of which the text is asked every so many units. */
export interface GramLook {
  /** Units. */
  readonly size: number
  /** A divisor of 24. */
  readonly stride: number
  readonly set: GramSet
}

/** A set of hashes, by their upper bits. */
export class GramSet {
  readonly bytes: Uint8Array
  readonly shift: number
  /** Where it lies in the module's memory, while `laid` is the kernel's. */
  at = 0
  laid = -1

  /** @param grams how many it will hold; 32 bits each keep the false ones few, and a small set has room for fewer still */
  constructor(grams: number) {
    const log = Math.max(10, Math.min(16, Math.ceil(Math.log2(grams * 256))), Math.ceil(Math.log2(grams * 32)))
    this.bytes = new Uint8Array(1 << (log - 3))
    this.shift = 32 - log
  }

  add(hash: number): void {
    const place = hash >>> this.shift
    this.bytes[place >>> 3]! |= 1 << (place & 7)
  }
}

/**
 * The inner loops in WebAssembly (kernel/scan.ts), one for each thread. Texts are copied into its memory piece by piece;
 * sets of grams stay there as long as there is room.
 */
class Kernel {
  private readonly memory = new WebAssembly.Memory({ initial: Math.ceil(SETS / PAGE), maximum: 65_536 })
  private readonly loops: Loops
  private readonly encoder = new TextEncoder()
  private bytes!: Uint8Array
  private units!: Uint16Array
  private words!: Uint32Array
  private used = SETS
  private generation = 0

  constructor() {
    const code = Uint8Array.from(atob(KERNEL), c => c.charCodeAt(0))
    this.loops = new WebAssembly.Instance(new WebAssembly.Module(code), { env: { memory: this.memory } }).exports as unknown as Loops
    this.look()
  }

  // Whenever the memory grows, what looked at it before is void.
  private look(): void {
    this.bytes = new Uint8Array(this.memory.buffer)
    this.units = new Uint16Array(this.memory.buffer)
    this.words = new Uint32Array(this.memory.buffer)
  }

  /**
   * Takes in a text of at most PIECE units.
   * @returns its length in UTF-8
   */
  take(source: string): number {
    return this.encoder.encodeInto(source, this.bytes.subarray(SOURCE, SOURCE + 3 * PIECE)).written
  }

  /**
   * Folds the ASCII characters of the text that was taken in, from a byte on, and puts their units into `units` at `count`.
   * @param goesOn the text goes on after its end
   * @returns how many units it came to; the byte at which it stopped: before the end, what is there or after it is not ASCII;
   * and where places break off, as pairs of a unit (counted from the first of these) and its byte, until the next call
   */
  fold(from: number, length: number, goesOn: boolean, units: Uint16Array, count: number): { made: number, stop: number, breaks: Uint32Array } {
    const made = this.loops.fold(SOURCE, from, length, UNITS, BREAKS, Number(goesOn))
    units.set(this.units.subarray(UNITS / 2, UNITS / 2 + made), count)
    const at = BREAKS / 4
    return { made, stop: this.words[at + 1]!, breaks: this.words.subarray(at + 2, at + 2 + 2 * this.words[at]!) }
  }

  /** The hashes of all grams of one size in these units. */
  hashes(units: Uint16Array, size: number): Uint32Array {
    this.lay(units)
    const out = new Uint32Array(Math.max(0, units.length - size + 1))
    for (let i = 0; i < out.length; i++) out[i] = this.loops.hash(UNITS + 2 * i, size)
    return out
  }

  /**
   * Calls `found` with every gram that may be in a set: which of the looks, where it begins, and its hash. What is found
   * for one look comes in the order of the text. `found` must not come back here.
   */
  scan(units: Uint16Array, length: number, looks: readonly GramLook[], found: (look: number, at: number, hash: number) => void): void {
    for (let begin = 0; begin < length; begin += STEP) {
      this.lay(units.subarray(begin, Math.min(length, begin + STEP + MARGIN)))
      for (let k = 0; k < looks.length; k++) {
        const { size, stride, set } = looks[k]!
        const at = this.place(set)
        const until = Math.min(STEP, length - size + 1 - begin)
        const count = until > 0 ? this.loops.scan(UNITS, until, size, stride, at, set.shift, FOUND) : 0
        for (let i = 0; i < count; i++) found(k, begin + this.words[FOUND / 4 + 2 * i]!, this.words[FOUND / 4 + 2 * i + 1]!)
      }
    }
  }

  private lay(units: Uint16Array): void {
    this.units.set(units, UNITS / 2)
    // What is read beyond the end is masked or compared again; it is cleared so that hashes never hang on it.
    this.units.fill(0, UNITS / 2 + units.length, UNITS / 2 + units.length + 8)
  }

  private place(set: GramSet): number {
    if (set.laid === this.generation) return set.at
    const { length } = set.bytes
    if (this.used + length > SETS + MOST_SETS && this.used > SETS) {
      this.generation++
      this.used = SETS
    }
    const missing = this.used + length + MARGIN - this.memory.buffer.byteLength
    if (missing > 0) {
      this.memory.grow(Math.ceil(missing / PAGE))
      this.look()
    }
    this.bytes.set(set.bytes, this.used)
    set.at = this.used
    set.laid = this.generation
    this.used += length
    return set.at
  }
}

let ofThisThread: Kernel | null = null

/** The kernel of this thread, made at the first call. */
export function kernel(): Kernel {
  return ofThisThread ??= new Kernel()
}
