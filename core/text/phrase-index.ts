/** A key found: which one, and where it begins in the units. */
export interface KeyHit {
  key: number
  start: number
}

const LONG = 6
const SHORT = 3
const BASE = 0x01000193
const SPREAD = 0x9E3779B1

/**
 * Finds many keys in one pass. A gram filter: of each key its rarest gram (six units, or three for shorter keys) is
 * known to a bit set; the text's grams are asked by a rolling hash, and only where the bit is set the key itself is
 * compared. Unlike an automaton it stays small enough for the cache at 50,000 keys.
 */
export class PhraseIndex {
  private readonly pool: Uint16Array
  private readonly offsets: Uint32Array
  private readonly long: GramTable | null
  private readonly short: GramTable | null
  /** Keys of one or two units, by their first unit. */
  private readonly tiny = new Map<number, number[]>()

  constructor(keys: readonly string[]) {
    this.offsets = new Uint32Array(keys.length + 1)
    for (let i = 0; i < keys.length; i++) this.offsets[i + 1] = this.offsets[i]! + keys[i]!.length
    this.pool = new Uint16Array(this.offsets[keys.length]!)
    keys.forEach((key, i) => {
      for (let j = 0; j < key.length; j++) this.pool[this.offsets[i]! + j] = key.charCodeAt(j)
    })
    const ids = keys.map((_, i) => i)
    const longs = ids.filter(i => keys[i]!.length >= LONG)
    const shorts = ids.filter(i => keys[i]!.length >= SHORT && keys[i]!.length < LONG)
    this.long = longs.length ? new GramTable(LONG, longs, this.pool, this.offsets) : null
    this.short = shorts.length ? new GramTable(SHORT, shorts, this.pool, this.offsets) : null
    for (const i of ids) {
      if (keys[i]!.length === 0 || keys[i]!.length >= SHORT) continue
      const first = keys[i]!.charCodeAt(0)
      const own = this.tiny.get(first)
      if (own) own.push(i)
      else this.tiny.set(first, [i])
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
    if (this.long) this.scanGrams(this.long, units, length, found)
    if (this.short) this.scanGrams(this.short, units, length, found)
    if (!this.tiny.size) return
    for (let i = 0; i < length; i++) {
      const own = this.tiny.get(units[i]!)
      if (own) for (const key of own) if (this.stands(key, units, length, i)) found(key, i)
    }
  }

  private scanGrams(table: GramTable, units: Uint16Array, length: number, found: (key: number, start: number) => void): void {
    const { size, bits, shift, out } = table
    if (length < size) return
    let hash = 0
    for (let i = 0; i < size - 1; i++) hash = (Math.imul(hash, BASE) + units[i]!) | 0
    for (let i = size - 1; i < length; i++) {
      hash = (Math.imul(hash, BASE) + units[i]!) | 0
      const place = Math.imul(hash, SPREAD) >>> shift
      if ((bits[place >>> 5]! & (1 << (place & 31))) !== 0) table.ask(hash, i - size + 1, units, length, this, found)
      hash = (hash - Math.imul(units[i - size + 1]!, out)) | 0
    }
  }

  /** True if the key stands at that place. */
  stands(key: number, units: Uint16Array, length: number, start: number): boolean {
    const from = this.offsets[key]!
    const own = this.offsets[key + 1]! - from
    if (start < 0 || start + own > length) return false
    for (let i = 0; i < own; i++) if (units[start + i] !== this.pool[from + i]) return false
    return true
  }
}

class GramTable {
  readonly bits: Int32Array
  readonly shift: number
  /** BASE to the power of size - 1: what the unit that leaves the window weighs. */
  readonly out: number
  private readonly slots: Int32Array
  private readonly slotHash: Int32Array
  private readonly next: Int32Array
  private readonly keys: Uint32Array
  private readonly gramAt: Uint16Array

  constructor(readonly size: number, ids: readonly number[], pool: Uint16Array, offsets: Uint32Array) {
    const bitsLog = Math.max(13, Math.ceil(Math.log2(ids.length * 32)))
    this.bits = new Int32Array(1 << (bitsLog - 5))
    this.shift = 32 - bitsLog
    let out = 1
    for (let i = 0; i < size - 1; i++) out = Math.imul(out, BASE)
    this.out = out
    const slotLog = Math.max(4, Math.ceil(Math.log2(ids.length * 2)))
    this.slots = new Int32Array(1 << slotLog).fill(-1)
    this.slotHash = new Int32Array(1 << slotLog)
    this.next = new Int32Array(ids.length).fill(-1)
    this.keys = Uint32Array.from(ids)
    this.gramAt = new Uint16Array(ids.length)
    const seen = new Map<number, number>()
    for (const id of ids) for (let at = offsets[id]!; at + size <= offsets[id + 1]!; at++) {
      const h = gramHash(pool, at, size)
      seen.set(h, (seen.get(h) ?? 0) + 1)
    }
    ids.forEach((id, n) => {
      let best = 0
      let bestCount = Infinity
      for (let at = offsets[id]!; at + size <= offsets[id + 1]!; at++) {
        const count = seen.get(gramHash(pool, at, size))!
        if (count < bestCount) {
          best = at - offsets[id]!
          bestCount = count
        }
      }
      this.gramAt[n] = best
      const hash = gramHash(pool, offsets[id]! + best, size)
      const place = Math.imul(hash, SPREAD) >>> this.shift
      this.bits[place >>> 5]! |= 1 << (place & 31)
      const slot = this.slotOf(hash)
      this.next[n] = this.slots[slot]!
      this.slots[slot] = n
      this.slotHash[slot] = hash
    })
  }

  /** Compares every key whose gram has that hash; `at` is where the gram begins. */
  ask(hash: number, at: number, units: Uint16Array, length: number, index: PhraseIndex, found: (key: number, start: number) => void): void {
    for (let n = this.slots[this.slotOf(hash)]!; n >= 0; n = this.next[n]!) {
      const start = at - this.gramAt[n]!
      if (index.stands(this.keys[n]!, units, length, start)) found(this.keys[n]!, start)
    }
  }

  private slotOf(hash: number): number {
    const mask = this.slots.length - 1
    let slot = (Math.imul(hash, SPREAD) >>> 8) & mask
    while (this.slots[slot]! >= 0 && this.slotHash[slot] !== hash) slot = (slot + 1) & mask
    return slot
  }
}

function gramHash(pool: Uint16Array, at: number, size: number): number {
  let hash = 0
  for (let i = 0; i < size; i++) hash = (Math.imul(hash, BASE) + pool[at + i]!) | 0
  return hash
}
