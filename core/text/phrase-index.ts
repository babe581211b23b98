import { kernel, Laid } from './kernel'
import { TableImage } from './kernel-layout'

interface Grams {
  /** Units. */
  size: number
  /** Every so many units the text is asked; of a key so many grams in a row are known, so that one of them is. */
  stride: number
}

/** Keys from that length on, up to the next longer class. */
interface Tier extends Grams {
  least: number
}

const MAX_FEW_LONG = 2000
const MAX_FEW_SHORT = 200

/**
 * How keys are looked for by their length: longer ones can be asked at fewer units. Where there are few, one pass over the
 * text does for more of them; where there are many, rareness counts for more.
 */
function tiersFor(keys: readonly string[]): Tier[] {
  const long = keys.filter(k => k.length >= 7).length
  const short = keys.filter(k => k.length >= 4 && k.length < 7).length
  return [
    ...(long <= MAX_FEW_LONG
      ? [{ least: 7, size: 4, stride: 4 }]
      : [
          { least: 11, size: 6, stride: 6 },
          { least: 7, size: 6, stride: 2 },
        ]),
    short <= MAX_FEW_SHORT ? { least: 4, size: 3, stride: 2 } : { least: 4, size: 4, stride: 1 },
    ...[3, 2, 1].map(size => ({ least: size, size, stride: 1 })),
  ]
}

/**
 * Finds many keys in one pass for each length class. A gram filter: of each key its rarest gram (or grams in a row) is
 * known to a bit set; the text's grams are asked by their hashes, and only where the bit is set the key itself is
 * compared. Unlike an automaton it stays small enough for the cache at 50,000 keys.
 */
export class PhraseIndex {
  private readonly pool: Uint16Array
  private readonly offsets: Uint32Array
  private readonly tables: GramTable[] = []
  /** The length of the longest key in units. */
  readonly longest: number

  constructor(keys: readonly string[]) {
    this.offsets = new Uint32Array(keys.length + 1)
    for (let i = 0; i < keys.length; i++) this.offsets[i + 1] = this.offsets[i]! + keys[i]!.length
    this.pool = new Uint16Array(this.offsets[keys.length]!)
    keys.forEach((key, i) => {
      for (let j = 0; j < key.length; j++) this.pool[this.offsets[i]! + j] = key.charCodeAt(j)
    })
    this.longest = keys.reduce((most, key) => Math.max(most, key.length), 0)
    let most = Infinity
    for (const { least, ...grams } of tiersFor(keys)) {
      const ids = keys.flatMap((k, i) => (k.length >= least && k.length < most ? [i] : []))
      if (ids.length) this.tables.push(new GramTable(grams, ids, id => this.unitsOf(id)))
      most = least
    }
  }

  /** How many keys there are. */
  get size(): number {
    return this.offsets.length - 1
  }

  /** The length of a key in units. */
  lengthOf(key: number): number {
    return this.offsets[key + 1]! - this.offsets[key]!
  }

  /** Calls `found` for every occurrence of every key; for one key in the order of the text. */
  scan(units: Uint16Array, length: number, found: (key: number, start: number) => void): void {
    this.scanPart(units, 0, length, length, found)
  }

  /**
   * The same for a part of a text, where a key counts if the gram by which it is known begins in that part.
   * @param from a multiple of PHASE units from the text's beginning
   * @param length of what there is in `units`: as much before and after the part as the longest key
   */
  scanPart(units: Uint16Array, from: number, until: number, length: number, found: (key: number, start: number) => void): void {
    kernel().scan(units, from, until, length, this.tables, (table, at, entry) =>
      this.tables[table]!.ask(entry, (key, offset) => {
        if (this.stands(key, units, length, at - offset)) found(key, at - offset)
      }),
    )
  }

  private unitsOf(key: number): Uint16Array {
    // Of a key beyond all measure the beginning serves to find it.
    return this.pool.subarray(this.offsets[key]!, Math.min(this.offsets[key + 1]!, this.offsets[key]! + MAX_GRAMS))
  }

  private stands(key: number, units: Uint16Array, length: number, start: number): boolean {
    const from = this.offsets[key]!
    const own = this.offsets[key + 1]! - from
    if (start < 0 || start + own > length) return false
    for (let i = 0; i < own; i++) if (units[start + i] !== this.pool[from + i]) return false
    return true
  }
}

const MAX_GRAMS = 4096

// About how often a letter stands in English, out of a thousand characters with white space among them (from memory); which
// grams are taken makes a difference to the time alone.
const FREQUENT = new Float64Array(128).fill(2)
for (const [c, often] of Object.entries({
  ' ': 170,
  'e': 102,
  't': 75,
  'a': 68,
  'o': 62,
  'i': 58,
  'n': 56,
  's': 53,
  'h': 50,
  'r': 50,
  'd': 35,
  'l': 33,
  'c': 23,
  'u': 23,
  'm': 20,
  'w': 20,
  'f': 18,
  'g': 17,
  'y': 16,
  'p': 16,
  'b': 12,
  'v': 8,
  'k': 6,
}))
  FREQUENT[c.charCodeAt(0)] = often

/** Counts about how many grams share a hash. */
class Shares {
  private readonly counts = new Uint32Array(1 << 16)

  add(hashes: Uint32Array): void {
    for (let i = 0; i < hashes.length; i++) this.counts[hashes[i]! >>> 16]!++
  }

  of(hash: number): number {
    return this.counts[hash >>> 16]!
  }
}

/** Units beside a gram that are known; kernel/scan.ts takes as many in one load. */
const BESIDE = 4

/** Which keys have a gram of that hash, and where in the key it stands. */
class GramTable {
  readonly table: Laid
  private readonly image: TableImage
  /** By entry: the key, and the gram's place in it. */
  private readonly keys: Uint32Array
  private readonly offsets: Uint16Array
  private count = 0

  readonly size: number
  readonly stride: number

  constructor({ size, stride }: Grams, ids: readonly number[], unitsOf: (id: number) => Uint16Array) {
    this.size = size
    this.stride = stride
    const grams = ids.length * stride
    this.keys = new Uint32Array(grams)
    this.offsets = new Uint16Array(grams)
    this.image = new TableImage(grams)
    const hashes = ids.map(id => kernel().hashes(unitsOf(id), size))
    const shares = new Shares()
    for (const own of hashes) shares.add(own)
    ids.forEach((id, n) => {
      const units = unitsOf(id)
      const begin = this.rarest(units, hashes[n]!, shares)
      for (let i = begin; i < begin + stride; i++) {
        this.keys[this.count] = id
        this.offsets[this.count] = i
        this.image.add(this.count++, hashes[n]![i]!, units, this.beside(units, i))
      }
    })
    this.table = new Laid(this.image.bytes)
  }

  /** Where the row of `stride` grams begins that other keys share least and that are rarest in writing. */
  private rarest(units: Uint16Array, hashes: Uint32Array, shares: Shares): number {
    let best = 0
    let least = Infinity
    for (let begin = 0; begin + this.stride <= hashes.length; begin++) {
      let weight = 0
      for (let i = begin; i < begin + this.stride && weight < least; i++) {
        let common = shares.of(hashes[i]!)
        for (let j = i; j < i + this.size; j++) common *= units[j]! < 128 ? FREQUENT[units[j]!]! : 2
        weight += common
      }
      if (weight < least) {
        best = begin
        least = weight
      }
    }
    return best
  }

  /** Which of the key's units stand beside a gram: those after it, or before it where there are more. */
  private beside(units: Uint16Array, gram: number): { from: number, to: number, offset: number } {
    const after = gram + this.size
    const [behind, ahead] = [Math.min(BESIDE, gram), Math.min(BESIDE, units.length - after)]
    return behind > ahead ? { from: gram - behind, to: gram, offset: -behind } : { from: after, to: after + ahead, offset: this.size }
  }

  /** Calls `maybe` for the entry that the kernel found; where it gave up comparing, for all that follow. */
  ask(entry: number, maybe: (key: number, offset: number) => void): void {
    if (entry >= 0) maybe(this.keys[entry]!, this.offsets[entry]!)
    else for (let n = -2 - entry; n >= 0; n = this.image.after(n)) maybe(this.keys[n]!, this.offsets[n]!)
  }
}
