import { ENTRY_KINDS, entryKindOf, type EntryKind } from '../kinds'

/**
 * The flat arrays of a table of entries: shared between threads as they are, never copied.
 *
 *   entry i      lists[i]  kinds[i]  expires[i]  hashes[i]  next[i]
 *   pool         … value of i │ id of i │ value of i+1 │ id of i+1 …
 *                  ↑ values[i]  ↑ ids[i]  ↑ values[i+1]
 *   slot         tags[s] = 0: empty;  else slots[s] is the first entry of a key, and next[] the others of that key
 */
export interface EntryTableData {
  count: number
  lists: Uint32Array
  /** Index in ENTRY_KINDS. */
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
  /** What else there is to know of the values of a kind before one can be asked for, kind by kind: code * 65,536 + variant. */
  variants: Uint32Array
}

/** The number of a kind in a table. */
export const KIND_CODE = Object.fromEntries(ENTRY_KINDS.map((k, i) => [k, i])) as Record<EntryKind, number>
/** What no key finds (patterns, words): it is looked for by its literal. */
export const SCANNED: readonly boolean[] = ENTRY_KINDS.map(k => 'literal' in entryKindOf(k).lookup)
export const VARIANTS = 65_536

export function hashOf(kind: number, value: string): number {
  let hash = 0x811c9dc5 ^ kind
  for (let i = 0; i < value.length; i++) hash = Math.imul(hash ^ value.charCodeAt(i), 0x01000193)
  return (hash ^ (hash >>> 15)) >>> 0
}

// The slot is told by the lower bits.
export function tagOf(hash: number): number {
  return (hash >>> 24) | 1
}
