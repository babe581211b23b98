import type { Address } from '../address'
import { canonicalNetwork, ipBytes } from '../message'
import { ENTRY_KINDS, type Entry, type EntryKind } from './types'

/** The flat arrays of a table: shared between threads as they are, never copied. */
export interface EntryTableData {
  count: number
  lists: Uint32Array
  kinds: Uint8Array
  /** Where the value and then the id of entry i begin in the pool; one longer than the entries. */
  values: Uint32Array
  ids: Uint32Array
  pool: Uint8Array
  /** Milliseconds since 1970; NaN for never. */
  expires: Float64Array
  /** Of kind and value. */
  hashes: Uint32Array
  /** Open addressing over the hashes: the first entry of that key, or -1. */
  slots: Int32Array
  /** Of each slot some bits of its key's hash, 0 if it is empty: most of what is not there is told by this smaller array. */
  tags: Uint8Array
  next: Int32Array
  /** Prefix lengths of networks that occur, IPv4 as they are, IPv6 plus 1000. */
  prefixes: Uint16Array
}

const KIND = Object.fromEntries(ENTRY_KINDS.map((k, i) => [k, i])) as Record<EntryKind, number>
const SCANNED = new Set([KIND.pattern, KIND.words])

const encoder = new TextEncoder()
const decoder = new TextDecoder()

/**
 * Entries of many lists in flat arrays, found by the hash of kind and value: a million entries cost no more to ask than
 * ten, and the arrays lie in shared memory.
 */
export class EntryTable {
  /** Entries that no key finds (patterns, words): they are looked for by their literals. */
  readonly scanned: number[] = []
  private scannedById: Map<string, number[]> | null = null

  constructor(readonly data: EntryTableData) {
    for (let i = 0; i < data.count; i++) if (SCANNED.has(data.kinds[i]!)) this.scanned.push(i)
  }

  /** Which entry of a list has that id, kind and value; -1 if none. */
  indexOf(list: number, { id, kind, value }: Pick<Entry, 'id' | 'kind' | 'value'>): number {
    let found = -1
    const note = (i: number) => {
      if (this.listOf(i) === list && this.data.kinds[i] === KIND[kind] && this.entry(i).id === id && this.value(i) === value) found = i
    }
    if (SCANNED.has(KIND[kind])) (this.scannedById ??= this.byId(this.scanned)).get(id)?.forEach(note)
    else if (this.data.count) this.ask(KIND[kind], value, note)
    return found
  }

  /** Builds a table; entries are taken one by one and not kept. */
  static build(rows: Iterable<{ list: number, entry: Entry }>): EntryTable {
    const builder = new EntryTableBuilder()
    for (const { list, entry } of rows) builder.add(list, entry)
    return new EntryTable(builder.finish())
  }

  listOf(i: number): number {
    return this.data.lists[i]!
  }

  entry(i: number): Pick<Entry, 'id' | 'kind' | 'value' | 'expires'> {
    const { data } = this
    const expires = data.expires[i]!
    return {
      id: this.text(data.ids[i]!, data.values[i + 1]!),
      kind: ENTRY_KINDS[data.kinds[i]!]!,
      value: this.value(i),
      ...(Number.isNaN(expires) ? {} : { expires: new Date(expires).toISOString() }),
    }
  }

  /** The entries of each list, in their order. */
  byList(): Map<number, number[]> {
    const out = new Map<number, number[]>()
    for (let i = 0; i < this.data.count; i++) {
      const list = this.listOf(i)
      const own = out.get(list)
      if (own) own.push(i)
      else out.set(list, [i])
    }
    return out
  }

  /** Calls `found` for every entry of just that kind and value, on whatever list. Of patterns and words none is found. */
  findEqual({ kind, value }: Pick<Entry, 'kind' | 'value'>, found: (i: number) => void): void {
    if (this.data.count) this.ask(KIND[kind], value, found)
  }

  private byId(entries: readonly number[]): Map<string, number[]> {
    const out = new Map<string, number[]>()
    for (const i of entries) {
      const { id } = this.entry(i)
      out.set(id, [...out.get(id) ?? [], i])
    }
    return out
  }

  value(i: number): string {
    return this.text(this.data.values[i]!, this.data.ids[i]!)
  }

  private text(from: number, to: number): string {
    return decoder.decode(this.data.pool.slice(from, to)) // a copy: decoders do not read shared memory
  }

  /** Calls `found` for every entry that a key finds for this sender. An entry may come twice. */
  find(address: Address | null, found: (i: number) => void): void {
    if (!this.data.count) return
    if (!address) return
    this.ask(KIND.address, address.key, found)
    if (address.keyWithoutTag !== address.key) this.ask(KIND.address, address.keyWithoutTag, found)
    const { domain } = address
    if (!domain) return
    this.ask(KIND.domain, domain, found)
    for (let at = 0; at >= 0; at = nextLabel(domain, at)) this.ask(KIND['domain and below'], at ? domain.slice(at) : domain, found)
  }

  /** The same for what is the message's and not one address's: mailing list, network, everyone. */
  findForMessage(listId: string | null, client: string | null, found: (i: number) => void): void {
    if (!this.data.count) return
    this.ask(KIND.everyone, '', found)
    if (listId !== null) this.ask(KIND['mailing list'], listId, found)
    const bytes = client === null || !this.data.prefixes.length ? null : ipBytes(client)
    if (!bytes) return
    for (const code of this.data.prefixes) {
      if ((code >= 1000) !== (bytes.length === 16)) continue
      const length = code % 1000
      this.ask(KIND.network, canonicalNetwork(`${client}/${length}`) ?? '', found)
    }
  }

  private ask(kind: number, value: string, found: (i: number) => void): void {
    const { slots, tags, next } = this.data
    const mask = slots.length - 1
    const hash = hashOf(kind, value)
    const tag = tagOf(hash)
    for (let slot = hash & mask; tags[slot] !== 0; slot = (slot + 1) & mask) {
      if (tags[slot] !== tag || !this.is(slots[slot]!, kind, value)) continue
      for (let i = slots[slot]!; i >= 0; i = next[i]!) found(i)
      return
    }
  }

  private is(i: number, kind: number, value: string): boolean {
    const { kinds, values, ids, pool } = this.data
    if (kinds[i] !== kind) return false
    const from = values[i]!
    const length = ids[i]! - from
    if (length === value.length) {
      let j = 0
      while (j < length && pool[from + j] === value.charCodeAt(j)) j++
      if (j === length) return true
    }
    return length > value.length && this.value(i) === value
  }
}

function nextLabel(domain: string, at: number): number {
  const dot = domain.indexOf('.', at)
  return dot < 0 ? -1 : dot + 1
}

function hashOf(kind: number, value: string): number {
  let hash = 0x811C9DC5 ^ kind
  for (let i = 0; i < value.length; i++) hash = Math.imul(hash ^ value.charCodeAt(i), 0x01000193)
  return (hash ^ (hash >>> 15)) >>> 0
}

// The slot is told by the lower bits.
function tagOf(hash: number): number {
  return (hash >>> 24) | 1
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
  private prefixes = new Set<number>()
  private hashes = new Uint32Array(1024)

  add(list: number, entry: Entry): void {
    if (this.count === this.kinds.length) this.grow()
    const i = this.count++
    const { value } = entry
    this.lists[i] = list
    this.kinds[i] = KIND[entry.kind]
    this.expires[i] = entry.expires === undefined ? NaN : Date.parse(entry.expires)
    this.hashes[i] = hashOf(KIND[entry.kind], value)
    this.values[i] = this.used
    this.write(value)
    this.ids[i] = this.used
    this.write(entry.id)
    if (entry.kind === 'network') {
      const [address, length] = entry.value.split('/') as [string, string]
      this.prefixes.add(Number(length) + (address.includes(':') ? 1000 : 0))
    }
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
    // More prefixes than there are networks are asked in vain, and miss nothing.
    for (const prefix of data.prefixes) this.prefixes.add(prefix)
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
      count, slots, tags, next,
      lists: copied(this.lists.subarray(0, count), Uint32Array),
      kinds: copied(this.kinds.subarray(0, count), Uint8Array),
      values: copied(this.values.subarray(0, count + 1), Uint32Array),
      ids: copied(this.ids.subarray(0, count), Uint32Array),
      pool: copied(this.pool.subarray(0, this.used), Uint8Array),
      expires: copied(this.expires.subarray(0, count), Float64Array),
      hashes: copied(this.hashes.subarray(0, count), Uint32Array),
      prefixes: copied(Uint16Array.from([...this.prefixes].sort((a, b) => b - a)), Uint16Array),
    }
    const mask = slots.length - 1
    // From the last to the first, so that a chain runs in the order in which entries came.
    for (let i = count - 1; i >= 0; i--) {
      if (SCANNED.has(data.kinds[i]!)) continue
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
  new(lengthOrBuffer: number | ArrayBufferLike): T
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
