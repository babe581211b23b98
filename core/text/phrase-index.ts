import { GramSet, kernel } from './kernel'

interface Grams {
  /** Units. */
  size: number
  /** Every so many units the text is asked; of a key so many grams in a row are known, so that one of them is. */
  stride: number
}

/**
 * Keys by their length, each class with its grams: shorter ones are asked at fewer units, longer ones are rarer. Where
 * there are more keys than `few`, rareness counts for more.
 */
const TIERS: { least: number, few: number, ofFew: Grams, ofMany: Grams }[] = [
  { least: 11, few: 3000, ofFew: { size: 4, stride: 8 }, ofMany: { size: 6, stride: 6 } },
  { least: 7, few: 2000, ofFew: { size: 4, stride: 4 }, ofMany: { size: 6, stride: 2 } },
  { least: 4, few: 200, ofFew: { size: 3, stride: 2 }, ofMany: { size: 4, stride: 1 } },
  ...[3, 2, 1].map(size => ({ least: size, few: 0, ofFew: { size, stride: 1 }, ofMany: { size, stride: 1 } })),
]

/**
 * Finds many keys in one pass for each length class. A gram filter: of each key its rarest gram (or grams in a row) is
 * known to a bit set; the text's grams are asked by their hashes, and only where the bit is set the key itself is
 * compared. Unlike an automaton it stays small enough for the cache at 50,000 keys.
 */
export class PhraseIndex {
  private readonly pool: Uint16Array
  private readonly offsets: Uint32Array
  private readonly tables: GramTable[] = []

  constructor(keys: readonly string[]) {
    this.offsets = new Uint32Array(keys.length + 1)
    for (let i = 0; i < keys.length; i++) this.offsets[i + 1] = this.offsets[i]! + keys[i]!.length
    this.pool = new Uint16Array(this.offsets[keys.length]!)
    keys.forEach((key, i) => {
      for (let j = 0; j < key.length; j++) this.pool[this.offsets[i]! + j] = key.charCodeAt(j)
    })
    let most = Infinity
    for (const { least, few, ofFew, ofMany } of TIERS) {
      const ids = keys.flatMap((k, i) => k.length >= least && k.length < most ? [i] : [])
      if (ids.length) this.tables.push(new GramTable(ids.length <= few ? ofFew : ofMany, ids, id => this.unitsOf(id)))
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
    kernel().scan(units, length, this.tables, (table, at, hash) => this.tables[table]!.ask(hash, (key, offset) => {
      if (this.stands(key, units, length, at - offset)) found(key, at - offset)
    }))
  }

  private unitsOf(key: number): Uint16Array {
    // Of a key beyond all measure the beginning serves to find it.
    return this.pool.subarray(this.offsets[key]!, Math.min(this.offsets[key + 1]!, this.offsets[key]! + MOST_GRAMS))
  }

  private stands(key: number, units: Uint16Array, length: number, start: number): boolean {
    const from = this.offsets[key]!
    const own = this.offsets[key + 1]! - from
    if (start < 0 || start + own > length) return false
    for (let i = 0; i < own; i++) if (units[start + i] !== this.pool[from + i]) return false
    return true
  }
}

const MOST_GRAMS = 4096

/** Which keys have a gram of that hash, and where in the key it stands. */
class GramTable {
  readonly set: GramSet
  private readonly slots: Int32Array
  private readonly slotHash: Uint32Array
  private readonly next: Int32Array
  private readonly keys: Uint32Array
  private readonly offsets: Uint16Array
  private count = 0

  readonly size: number
  readonly stride: number

  constructor({ size, stride }: Grams, ids: readonly number[], unitsOf: (id: number) => Uint16Array) {
    this.size = size
    this.stride = stride
    const grams = ids.length * stride
    this.set = new GramSet(grams)
    const slotLog = Math.max(4, Math.ceil(Math.log2(grams * 2)))
    this.slots = new Int32Array(1 << slotLog).fill(-1)
    this.slotHash = new Uint32Array(1 << slotLog)
    this.next = new Int32Array(grams).fill(-1)
    this.keys = new Uint32Array(grams)
    this.offsets = new Uint16Array(grams)
    const seen = new Map<number, number>()
    for (const id of ids) for (const hash of kernel().hashes(unitsOf(id), size)) seen.set(hash, (seen.get(hash) ?? 0) + 1)
    for (const id of ids) {
      const hashes = kernel().hashes(unitsOf(id), size)
      const begin = this.rarest(hashes, seen)
      for (let i = begin; i < begin + stride; i++) this.add(id, i, hashes[i]!)
    }
  }

  /** Where the row of `stride` grams begins that other keys share least. */
  private rarest(hashes: Uint32Array, seen: ReadonlyMap<number, number>): number {
    let best = 0
    let least = Infinity
    for (let begin = 0; begin + this.stride <= hashes.length; begin++) {
      let shared = 0
      for (let i = begin; i < begin + this.stride; i++) shared += seen.get(hashes[i]!)!
      if (shared < least) {
        best = begin
        least = shared
      }
    }
    return best
  }

  private add(key: number, offset: number, hash: number): void {
    const n = this.count++
    this.keys[n] = key
    this.offsets[n] = offset
    this.set.add(hash)
    const slot = this.slotOf(hash)
    this.next[n] = this.slots[slot]!
    this.slots[slot] = n
    this.slotHash[slot] = hash
  }

  /** Calls `maybe` for every key that has a gram of that hash. */
  ask(hash: number, maybe: (key: number, offset: number) => void): void {
    for (let n = this.slots[this.slotOf(hash)]!; n >= 0; n = this.next[n]!) maybe(this.keys[n]!, this.offsets[n]!)
  }

  private slotOf(hash: number): number {
    const mask = this.slots.length - 1
    let slot = hash & mask
    while (this.slots[slot]! >= 0 && this.slotHash[slot] !== hash) slot = (slot + 1) & mask
    return slot
  }
}
