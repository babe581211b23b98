import { entryKindOf } from '../kinds'
import type { Entry } from '../policy'
import { hashOf, KIND_CODE, SCANNED, tagOf, VARIANTS, type EntryTableData } from './entry-layout'
import { EntryTable } from './entry-table'

const encoder = new TextEncoder()

/** Builds a table; entries are taken one by one and not kept. */
export function buildEntryTable(rows: Iterable<{ list: number, entry: Entry }>): EntryTable {
  const builder = new EntryTableBuilder()
  for (const { list, entry } of rows) builder.add(list, entry)
  return new EntryTable(builder.finish())
}

/** Takes entries as they come; sized twice over as it grows, cut to size and put into shared memory at the end. */
export class EntryTableBuilder {
  private count = 0
  private lists = new Uint32Array(1024)
  private kinds = new Uint8Array(1024)
  private values = new Uint32Array(1025)
  private ids = new Uint32Array(1024)
  private expires = new Float64Array(1024)
  private pool = new Uint8Array(64 * 1024)
  private used = 0
  private variants = new Set<number>()
  private hashes = new Uint32Array(1024)

  add(list: number, entry: Entry): void {
    if (this.count === this.kinds.length) this.grow()
    const i = this.count++
    const { value } = entry
    this.lists[i] = list
    this.kinds[i] = KIND_CODE[entry.kind]
    this.expires[i] = entry.expires === undefined ? NaN : Date.parse(entry.expires)
    this.hashes[i] = hashOf(KIND_CODE[entry.kind], value)
    this.values[i] = this.used
    this.write(value)
    this.ids[i] = this.used
    this.write(entry.id)
    const { lookup } = entryKindOf(entry.kind)
    if ('ask' in lookup && lookup.variant) this.variants.add(KIND_CODE[entry.kind] * VARIANTS + lookup.variant(value))
  }

  /**
   * Takes over the entries of another table, in their order.
   * @param gone those that are left out
   * @param lists by the number of a list in that table its number in this one; -1 if it is gone with its entries
   */
  takeOver(data: EntryTableData, gone: ReadonlySet<number>, lists: readonly number[]): void {
    const stays = (i: number) => lists[data.lists[i]!]! >= 0 && !gone.has(i)
    for (let from = 0; from < data.count; from++) {
      if (!stays(from)) continue
      let to = from + 1
      while (to < data.count && stays(to)) to++
      this.takeRun(data, from, to, lists)
      from = to
    }
  }

  // What stands together is copied together.
  private takeRun(data: EntryTableData, from: number, to: number, lists: readonly number[]): void {
    while (this.count + to - from > this.kinds.length) this.grow()
    const begin = data.values[from]!
    const end = data.values[to]!
    this.room(end - begin)
    this.pool.set(data.pool.subarray(begin, end), this.used)
    const shift = this.used - begin
    this.used += end - begin
    this.kinds.set(data.kinds.subarray(from, to), this.count)
    this.expires.set(data.expires.subarray(from, to), this.count)
    this.hashes.set(data.hashes.subarray(from, to), this.count)
    for (let i = from; i < to; i++) {
      const n = this.count++
      this.lists[n] = lists[data.lists[i]!]!
      this.values[n] = data.values[i]! + shift
      this.ids[n] = data.ids[i]! + shift
    }
    // More variants than there are entries of are asked in vain, and miss nothing.
    for (const variant of data.variants) this.variants.add(variant)
  }

  private room(bytes: number): void {
    if (this.used + bytes > this.pool.length) this.pool = grown(this.pool, Math.max(this.pool.length * 2, this.used + bytes))
  }

  private write(text: string): void {
    this.room(text.length * 3)
    this.used += encoder.encodeInto(text, this.pool.subarray(this.used)).written
  }

  private grow(): void {
    const size = this.kinds.length * 2
    this.lists = grown(this.lists, size)
    this.kinds = grown(this.kinds, size)
    this.values = grown(this.values, size + 1)
    this.ids = grown(this.ids, size)
    this.expires = grown(this.expires, size)
    this.hashes = grown(this.hashes, size)
  }

  finish(): EntryTableData {
    const { count } = this
    this.values[count] = this.used
    const slots = shared(Int32Array, 1 << Math.max(4, Math.ceil(Math.log2(count * 2 + 1)))).fill(-1)
    const tags = shared(Uint8Array, slots.length)
    const next = shared(Int32Array, count).fill(-1)
    const data: EntryTableData = {
      count,
      slots,
      tags,
      next,
      lists: copied(this.lists.subarray(0, count), Uint32Array),
      kinds: copied(this.kinds.subarray(0, count), Uint8Array),
      values: copied(this.values.subarray(0, count + 1), Uint32Array),
      ids: copied(this.ids.subarray(0, count), Uint32Array),
      pool: copied(this.pool.subarray(0, this.used), Uint8Array),
      expires: copied(this.expires.subarray(0, count), Float64Array),
      hashes: copied(this.hashes.subarray(0, count), Uint32Array),
      variants: copied(Uint32Array.from([...this.variants].sort((a, b) => b - a)), Uint32Array),
    }
    const mask = slots.length - 1
    // From the last to the first, so that a chain runs in the order in which entries came.
    for (let i = count - 1; i >= 0; i--) {
      if (SCANNED[data.kinds[i]!]) continue
      let slot = data.hashes[i]! & mask
      while (slots[slot]! >= 0 && !sameKey(data, slots[slot]!, i)) slot = (slot + 1) & mask
      next[i] = slots[slot]!
      slots[slot] = i
      tags[slot] = tagOf(data.hashes[i]!)
    }
    return data
  }
}

function sameKey(data: EntryTableData, a: number, b: number): boolean {
  if (data.hashes[a] !== data.hashes[b] || data.kinds[a] !== data.kinds[b]) return false
  const [fromA, fromB] = [data.values[a]!, data.values[b]!]
  const length = data.ids[a]! - fromA
  if (data.ids[b]! - fromB !== length) return false
  for (let i = 0; i < length; i++) if (data.pool[fromA + i] !== data.pool[fromB + i]) return false
  return true
}

type Typed = Uint8Array | Uint16Array | Uint32Array | Int32Array | Float64Array
interface TypedMaker<T extends Typed> {
  new (lengthOrBuffer: number | ArrayBufferLike): T
  BYTES_PER_ELEMENT: number
}

function grown<T extends Typed>(array: T, size: number): T {
  const more = new (array.constructor as TypedMaker<T>)(size)
  more.set(array as never)
  return more
}

function shared<T extends Typed>(Maker: TypedMaker<T>, length: number): T {
  return typeof SharedArrayBuffer === 'undefined' ? new Maker(length) : new Maker(new SharedArrayBuffer(length * Maker.BYTES_PER_ELEMENT))
}

function copied<T extends Typed>(array: T, Maker: TypedMaker<T>): T {
  const out = shared(Maker, array.length)
  out.set(array as never)
  return out
}
