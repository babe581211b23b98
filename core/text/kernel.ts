import { KERNEL } from './kernel-code'
import { BREAKS, FOUND, MARGIN, PIECE, ROOM, SOURCE, TABLES, UNITS } from './kernel-layout'

interface Loops {
  fold(source: number, from: number, length: number, units: number, breaks: number, goesOn: number): number
  hashes(units: number, count: number, size: number, out: number): void
  scan(units: number, from: number, until: number, size: number, stride: number, table: number, found: number, room: number): number
}

const PAGE = 65_536
/** A multiple of every stride: parts of a text that begin at multiples of it are asked at the same units as the whole. */
export const PHASE = 24
/** Units by which a scan goes on. */
const STEP = Math.floor((PIECE - MARGIN) / PHASE) * PHASE
/** Tables of policies that are gone are cleared away when all together are larger. */
const MAX_BYTES = 128 * 1024 * 1024

/** What is looked for: grams of one size, of which the text is asked every so many units. */
export interface GramLook {
  /** Units. */
  readonly size: number
  /** A divisor of PHASE. */
  readonly stride: number
  /** As kernel/scan.ts reads it. */
  readonly table: Laid
}

/** Bytes that are copied into the module's memory when they are first needed. */
export class Laid {
  /** Where they lie in the module's memory, while `laid` is the kernel's. */
  at = 0
  laid = -1

  constructor(readonly bytes: Uint8Array) {}
}

/**
 * The inner loops in WebAssembly (kernel/scan.ts), one for each thread. Texts are copied into its memory piece by piece;
 * tables of grams stay there as long as there is room.
 */
class Kernel {
  private readonly memory = new WebAssembly.Memory({ initial: Math.ceil(TABLES / PAGE), maximum: 65_536 })
  private readonly loops: Loops
  private readonly encoder = new TextEncoder()
  private bytes!: Uint8Array
  private units!: Uint16Array
  private words!: Uint32Array
  private used = TABLES
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
  fold(
    from: number,
    length: number,
    goesOn: boolean,
    units: Uint16Array,
    count: number,
  ): { made: number, stop: number, breaks: Uint32Array } {
    const made = this.loops.fold(SOURCE, from, length, UNITS, BREAKS, Number(goesOn))
    units.set(this.units.subarray(UNITS / 2, UNITS / 2 + made), count)
    const at = BREAKS / 4
    return { made, stop: this.words[at + 1]!, breaks: this.words.subarray(at + 2, at + 2 + 2 * this.words[at]!) }
  }

  /** The hashes of all grams of one size in these units, of which there are at most PIECE. */
  hashes(units: Uint16Array, size: number): Uint32Array {
    const count = Math.max(0, units.length - size + 1)
    this.lay(units, 0, units.length)
    this.loops.hashes(UNITS, count, size, FOUND)
    return this.words.slice(FOUND / 4, FOUND / 4 + count)
  }

  /**
   * Calls `found` with every gram that may be in a table and begins in a part of a text: which of the looks, where it begins,
   * and the entry, or -2 less the first of more entries than were compared. What is found for one look comes in the order of
   * the text. `found` must not come back here.
   * @param from where the part begins, for all parts of one text a multiple of PHASE units from the text's beginning
   */
  scan(
    units: Uint16Array,
    from: number,
    until: number,
    length: number,
    looks: readonly GramLook[],
    found: (look: number, at: number, entry: number) => void,
  ): void {
    for (let begin = from; begin < until; begin += STEP) {
      this.lay(units, begin, Math.min(length, begin + STEP + MARGIN))
      for (let k = 0; k < looks.length; k++) {
        const { size, stride, table } = looks[k]!
        const at = this.place(table)
        const end = Math.min(STEP, until - begin, length - size + 1 - begin)
        for (let next = 0; next < end; next = this.words[FOUND / 4]!) {
          const count = this.loops.scan(UNITS, next, end, size, stride, at, FOUND, ROOM)
          for (let i = 1; i <= count; i++) found(k, begin + this.words[FOUND / 4 + 2 * i]!, this.words[FOUND / 4 + 2 * i + 1]! | 0)
        }
      }
    }
  }

  // With some of what stands before, since what stands beside a gram is looked at; what is read beyond is compared again.
  private lay(units: Uint16Array, begin: number, end: number): void {
    const before = Math.min(begin, MARGIN / 2)
    this.units.set(units.subarray(begin - before, end), UNITS / 2 - before)
    // So that hashes never hang on what was there.
    this.units.fill(0, UNITS / 2 + end - begin, UNITS / 2 + end - begin + 8)
  }

  private place(table: Laid): number {
    if (table.laid === this.generation) return table.at
    const { length } = table.bytes
    if (this.used + length > TABLES + MAX_BYTES && this.used > TABLES) {
      this.generation++
      this.used = TABLES
    }
    const missing = this.used + length + MARGIN - this.memory.buffer.byteLength
    if (missing > 0) {
      this.memory.grow(Math.ceil(missing / PAGE))
      this.look()
    }
    this.bytes.set(table.bytes, this.used)
    table.at = this.used
    table.laid = this.generation
    this.used += Math.ceil(length / 16) * 16
    return table.at
  }
}

let ofThisThread: Kernel | null = null

/** The kernel of this thread, made at the first call. */
export function kernel(): Kernel {
  return (ofThisThread ??= new Kernel())
}
