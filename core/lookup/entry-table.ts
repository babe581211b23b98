import { addTo } from '../add-to'
import type { Address } from '../address'
import { ENTRY_KINDS, entryKindOf, type EntrySubject, type EntryText } from '../kinds'
import type { Entry } from '../policy'
import { hashOf, KIND_CODE, SCANNED, tagOf, VARIANTS, type EntryTableData } from './entry-layout'

const decoder = new TextDecoder()

/** A kind whose entries are asked for by their values. */
interface Probe {
  code: number
  ask(subject: EntrySubject, asked: (value: string) => void, variants: readonly number[]): void
}

function askedOf(of: 'address' | 'message'): Probe[] {
  return ENTRY_KINDS.flatMap((kind, code) => {
    const { of: what, lookup } = entryKindOf(kind)
    return what === of && 'ask' in lookup ? [{ code, ask: lookup.ask }] : []
  })
}
const BY_ADDRESS = askedOf('address')
const BY_MESSAGE = askedOf('message')

/**
 * Entries of many lists in flat arrays, found by the hash of kind and value: a million entries cost no more to ask than
 * ten, and the arrays lie in shared memory.
 */
export class EntryTable {
  /** Entries that no key finds (patterns, words): they are looked for by their literals. */
  readonly scanned: number[] = []
  private scannedById: Map<string, number[]> | null = null
  /** By code of the kind. */
  private readonly variants: number[][] = ENTRY_KINDS.map(() => [])

  constructor(readonly data: EntryTableData) {
    for (let i = 0; i < data.count; i++) if (SCANNED[data.kinds[i]!]) this.scanned.push(i)
    for (const v of data.variants) this.variants[Math.floor(v / VARIANTS)]!.push(v % VARIANTS)
  }

  /** Which entry of a list has that id, kind and value; -1 if none. */
  indexOf(list: number, { id, kind, value }: Pick<Entry, 'id' | 'kind' | 'value'>): number {
    let found = -1
    const note = (i: number) => {
      if (this.listOf(i) === list && this.data.kinds[i] === KIND_CODE[kind] && this.entry(i).id === id && this.value(i) === value) found = i
    }
    if (SCANNED[KIND_CODE[kind]]) (this.scannedById ??= this.byId(this.scanned)).get(id)?.forEach(note)
    else if (this.data.count) this.ask(KIND_CODE[kind], value, note)
    return found
  }

  listOf(i: number): number {
    return this.data.lists[i]!
  }

  /** The entries of a list; null where there are more than `most`. */
  entriesOf(list: number, most: number): EntryText[] | null {
    const own: number[] = []
    for (let i = 0; i < this.data.count; i++) {
      if (this.data.lists[i] !== list) continue
      own.push(i)
      if (own.length > most) return null
    }
    return own.map(i => ({ kind: ENTRY_KINDS[this.data.kinds[i]!]!, value: this.value(i) }))
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
    for (let i = 0; i < this.data.count; i++) addTo(out, this.listOf(i), i)
    return out
  }

  /** Calls `found` for every entry of just that kind and value, on whatever list. Of patterns and words none is found. */
  findEqual({ kind, value }: Pick<Entry, 'kind' | 'value'>, found: (i: number) => void): void {
    if (this.data.count) this.ask(KIND_CODE[kind], value, found)
  }

  private byId(entries: readonly number[]): Map<string, number[]> {
    const out = new Map<string, number[]>()
    for (const i of entries) {
      const { id } = this.entry(i)
      out.set(id, [...(out.get(id) ?? []), i])
    }
    return out
  }

  value(i: number): string {
    return this.text(this.data.values[i]!, this.data.ids[i]!)
  }

  private text(from: number, to: number): string {
    return decoder.decode(this.data.pool.slice(from, to)) // a copy: decoders do not read shared memory
  }

  /** Calls `found` for every entry that a key finds for this sender's address. An entry may come twice. */
  find(address: Address, found: (i: number) => void): void {
    this.askKinds(BY_ADDRESS, { address, listId: null, client: null }, found)
  }

  /** The same for what is the message's and not one address's: its mailing list, its network, everyone. */
  findForMessage(subject: EntrySubject, found: (i: number) => void): void {
    this.askKinds(BY_MESSAGE, subject, found)
  }

  private askKinds(kinds: readonly Probe[], subject: EntrySubject, found: (i: number) => void): void {
    if (!this.data.count) return
    for (const { code, ask } of kinds) ask(subject, value => this.ask(code, value, found), this.variants[code]!)
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
