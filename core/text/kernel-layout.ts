/*
 * What the threads of JavaScript and the kernel (kernel/scan.ts) share: numbers are little-endian, offsets are in bytes.
 *
 * The kernel's memory
 *
 *   SOURCE   the text, UTF-8, PIECE units at most (three bytes each)
 *   UNITS    its units, UTF-16
 *   BREAKS   how many there are │ the byte at which folding stopped │ (unit, byte) (unit, byte) …      32 bits each
 *   FOUND    the unit from which to go on │ unused │ (unit, entry) (unit, entry) …                      32 bits each
 *   TABLES   tables of grams, one after another
 *
 * A table of grams
 *
 *   0        shift │ slots less one │ where the slots lie │ where the entries lie                       32 bits each
 *   BITS     a set of hashes: a hash's place is its upper bits, 32 less `shift` of them
 *   slots    the first entry of a hash, or -1 │ that hash                                              SLOT
 *   entries  four units beside the gram │ the next entry of that hash, or -1 │ how far they stand from
 *            the gram's begin │ how many of the four are known                                         ENTRY
 */

/** Units that one call takes; longer texts are given in pieces, small enough for the nearest cache. */
export const PIECE = 8192
/** What the loops may read beyond their end, and before their begin. */
export const MARGIN = 16
/** How many finds there is room for. */
export const ROOM = PIECE

export const SOURCE = 0
export const UNITS = SOURCE + 3 * PIECE + MARGIN + 2 * MARGIN
export const BREAKS = UNITS + 2 * (PIECE + MARGIN)
export const FOUND = BREAKS + 8 * (PIECE / 2 + 2)
export const TABLES = FOUND + 8 + 8 * ROOM

const BITS = 16
const SLOT = { bytes: 8, hash: 4 } as const
const ENTRY = { bytes: 16, next: 8, offset: 12, known: 14 } as const

/** A table of grams as kernel/scan.ts reads it: see the drawing above. */
export class TableImage {
  readonly bytes: Uint8Array
  private readonly view: DataView
  private readonly shift: number
  private readonly slots: number
  private readonly most: number
  private readonly entries: number

  /** @param grams how many it will hold; 32 bits each keep the false ones few, and a small table has room for fewer still */
  constructor(grams: number) {
    const log = Math.max(10, Math.min(16, Math.ceil(Math.log2(grams * 256))), Math.ceil(Math.log2(grams * 32)))
    const slots = 1 << Math.max(4, Math.ceil(Math.log2(grams * 2)))
    this.shift = 32 - log
    this.most = slots - 1
    this.slots = BITS + (1 << (log - 3))
    this.entries = this.slots + SLOT.bytes * slots
    this.bytes = new Uint8Array(this.entries + ENTRY.bytes * grams)
    this.view = new DataView(this.bytes.buffer)
    for (const [i, n] of [this.shift, this.most, this.slots, this.entries].entries()) this.view.setUint32(4 * i, n, true)
    for (let i = 0; i < slots; i++) this.view.setInt32(this.slots + SLOT.bytes * i, -1, true)
  }

  /** The next entry with the same hash, or -1. */
  after(entry: number): number {
    return this.view.getInt32(this.entries + ENTRY.bytes * entry + ENTRY.next, true)
  }

  add(entry: number, hash: number, units: Uint16Array, beside: { from: number, to: number, offset: number }): void {
    const { view } = this
    const place = hash >>> this.shift
    this.bytes[BITS + (place >>> 3)]! |= 1 << (place & 7)
    let slot = hash & this.most
    const first = () => view.getInt32(this.slots + SLOT.bytes * slot, true)
    while (first() >= 0 && view.getUint32(this.slots + SLOT.bytes * slot + SLOT.hash, true) !== hash) slot = (slot + 1) & this.most
    const next = first()
    view.setInt32(this.slots + SLOT.bytes * slot, entry, true)
    view.setUint32(this.slots + SLOT.bytes * slot + SLOT.hash, hash, true)
    const at = this.entries + ENTRY.bytes * entry
    for (let i = beside.from; i < beside.to; i++) view.setUint16(at + 2 * (i - beside.from), units[i]!, true)
    view.setInt32(at + ENTRY.next, next, true)
    view.setInt16(at + ENTRY.offset, beside.offset, true)
    view.setUint16(at + ENTRY.known, beside.to - beside.from, true)
  }
}
