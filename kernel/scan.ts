// The inner loops of looking for phrases, compiled to WebAssembly: the same loops in JavaScript cost several times as
// much, since every access to a typed array is checked. Everything else stays in core/text. All pointers are byte offsets
// into the module's memory; units are UTF-16 code units, two bytes each.

const MULTIPLIER: u64 = 0x9E3779B97F4A7C15

/**
 * Puts the ASCII characters with which a text begins in the plain form: lower case, and any run of white space as one space.
 * The last unit before another character is left to the caller, who knows what goes together with it; so is the last unit
 * of a text that goes on.
 * @param source the text in UTF-8; 16 more bytes may be read
 * @param units where they go; 16 more units may be written
 * @param breaks first how many there are, and the byte at which it stopped; then where a unit's place in the text is no longer
 * that of the unit before it plus one: pairs of 32 bits, the unit and its byte
 * @param goesOn the text goes on after `length`
 * @returns how many units there are
 */
export function fold(source: usize, from: u32, length: u32, units: usize, breaks: usize, goesOn: bool): u32 {
  let count: u32 = 0
  let broken: u32 = 0
  let at: u32 = from
  let last: u32 = from
  let stopped = goesOn
  while (at < length) {
    // Sixteen at a time; of a block with something else in it what stands before, of one with white space in a row its first.
    while (at + 16 < length) {
      const block = v128.load(source + at)
      const white = v128.or(i8x16.eq(block, i8x16.splat(32)), i8x16.lt_u(i8x16.sub(block, i8x16.splat(9)), i8x16.splat(5)))
      const upper = i8x16.lt_u(i8x16.sub(block, i8x16.splat(65)), i8x16.splat(26))
      const out = v128.bitselect(i8x16.splat(32), v128.or(block, v128.and(upper, i8x16.splat(32))), white)
      v128.store(units + (count << 1), i16x8.extend_low_i8x16_u(out))
      v128.store(units + (count << 1), i16x8.extend_high_i8x16_u(out), 16)
      const whites = <u32>i8x16.bitmask(white) | (<u32>isWhite(load<u8>(source + at, 16)) << 16)
      const runs = whites & (whites >> 1)
      const other = <u32>i8x16.bitmask(block)
      const stop = runs | other
      if (stop == 0) {
        at += 16
        count += 16
        last = at - 1
        continue
      }
      const before = <u32>ctz(stop)
      if (other & (1 << before)) {
        if (before > 0) last = at + before - 1
        at += before
        count += before
        break
      }
      last = at + before
      count += before + 1
      at = last + 2
      while (at < length && isWhite(load<u8>(source + at))) at++
      broken++
      store<u32>(breaks + (broken << 3), count)
      store<u32>(breaks + (broken << 3), at, 4)
    }
    // One by one until the run is over or the block ends.
    const end = min<u32>(at + 16, length)
    while (at < end) {
      const c = load<u8>(source + at)
      if (c >= 128) break
      last = at
      if (!isWhite(c)) {
        store<u16>(units + (count << 1), c - 65 < 26 ? c | 32 : c)
        count++
        at++
        continue
      }
      do at++
      while (at < length && isWhite(load<u8>(source + at)))
      store<u16>(units + (count << 1), 32)
      count++
      if (at - last != 1) {
        broken++
        store<u32>(breaks + (broken << 3), count)
        store<u32>(breaks + (broken << 3), at, 4)
        break
      }
    }
    if (at < length && load<u8>(source + at) >= 128) {
      stopped = true
      break
    }
  }
  if (stopped && count > 0) {
    count--
    at = last
    if (broken > 0 && load<u32>(breaks + (broken << 3)) > count) broken--
  }
  store<u32>(breaks, broken)
  store<u32>(breaks, at, 4)
  return count
}

// @ts-ignore: decorator
@inline
function isWhite(c: u8): bool {
  return c == 32 || c - 9 < 5
}

/**
 * The hashes of all grams in a row.
 * @param count how many
 * @param size 1 to 4 units, or 6; 4 units from a gram's begin may be read whatever its size, or 6
 * @param out where they go, 32 bits each
 */
export function hashes(units: usize, count: u32, size: u32, out: usize): void {
  for (let i: u32 = 0; i < count; i++) store<u32>(out + (i << 2), hashOf(units + (i << 1), size))
}

const FIRST: u32 = 0x9E3779B1
const SECOND: u32 = 0x85EBCA77

// Two units a word; what is beyond the gram does not count.
// @ts-ignore: decorator
@inline
function hashFew(gram: usize, size: u32): u32 {
  const a = load<u32>(gram)
  const b = load<u32>(gram, 4)
  return size == 4 ? a * FIRST + b * SECOND : size == 3 ? a * FIRST + (b & 0xFFFF) * SECOND : (size == 2 ? a : a & 0xFFFF) * FIRST
}

// @ts-ignore: decorator
@inline
function hashSix(gram: usize): u32 {
  return <u32>(((load<u64>(gram) ^ (<u64>load<u32>(gram, 8) * 0xC2B2AE3D27D4EB4F)) * MULTIPLIER) >> 32)
}

// @ts-ignore: decorator
@inline
function hashOf(gram: usize, size: u32): u32 {
  return size == 6 ? hashSix(gram) : hashFew(gram, size)
}

// @ts-ignore: decorator
@inline
function maskOf(size: u32): u64 {
  return size == 4 ? <u64>-1 : (<u64>1 << (size << 4)) - 1
}

/** Entries with one hash that are compared here; where there are more, they are left to the caller. */
const MAX_IN_A_ROW: u32 = 16
/** Room for what four grams may come to: that many entries each, and the word that there are more. */
const ROOM: usize = 4 * 17 * 8

/**
 * Goes through a text gram by gram, and notes where a gram that is looked for may begin.
 *
 * A table of grams: its shift (32 less the logarithm of its bits), its slots less one, where slots and entries lie in it,
 * four numbers of 32 bits; then a set of hashes, in which a hash's place is its upper bits; then slots, each the first entry
 * of a hash, or -1, and that hash; then entries of 16 bytes: four units that stand beside the gram, zero beyond `known`,
 * the next entry with that hash, or -1, how far from the gram's begin they stand, and how many are known.
 * @param from the unit with which the first gram begins
 * @param until the unit before which grams begin
 * @param stride how many units on the next gram is asked
 * @param found where what is found goes: first the unit from which to go on, `until` or beyond if all was seen; then pairs of
 * 32 bits, the unit and the entry, or with too many entries in a row -2 less the first of them
 * @param room how many pairs there is room for
 * @returns how many were found
 */
export function scan(units: usize, from: u32, until: u32, size: u32, stride: u32, table: usize, found: usize, room: u32): u32 {
  const end = units + (until << 1)
  const begin = units + (from << 1)
  const step = stride << 1
  const first = found + 8
  const last = first + (room << 3) - ROOM
  const out = size == 6 ? scanSix(units, begin, end, step, table, first, last)
    : (size == 4 && stride == 4) || (size == 3 && stride == 2) ? scanFours(units, begin, end, size, step, table, first, last)
      : scanEach(units, begin, end, size, step, table, first, last)
  store<u32>(found, (goOn - units) >> 1)
  return <u32>((out - first) >> 3)
}

/** Where the last scan stopped. */
let goOn: usize = 0

function scanEach(units: usize, begin: usize, end: usize, size: u32, step: usize, table: usize, first: usize, last: usize): usize {
  const shift = load<u32>(table)
  let out = first
  let gram = begin
  for (; gram < end && out <= last; gram += step) {
    const h = hashOf(gram, size)
    if (bitOf(h >> shift, table) & 1) out = probe(units, gram, h, table, out)
  }
  goOn = gram
  return out
}

// The two that most texts are asked for, four grams at a time: their hashes are made at once, what they ask of memory
// overlaps, and one branch does for all of them where none is in the set.
function scanFours(units: usize, begin: usize, end: usize, size: u32, step: usize, table: usize, first: usize, last: usize): usize {
  const shift = load<u32>(table)
  let out = first
  let gram = begin
  for (; gram + 3 * step < end && out <= last; gram += 4 * step) {
    let a = v128.load(gram)
    let b = v128.load(gram + (size == 4 ? 16 : 4))
    if (size == 4) {
      const head = a
      a = v128.shuffle<i32>(head, b, 0, 2, 4, 6)
      b = v128.shuffle<i32>(head, b, 1, 3, 5, 7)
    }
    else {
      b = v128.and(b, i32x4.splat(0xFFFF))
    }
    const hashes = i32x4.add(i32x4.mul(a, i32x4.splat(FIRST)), i32x4.mul(b, i32x4.splat(SECOND)))
    const places = i32x4.shr_u(hashes, shift)
    const inA = bitOf(i32x4.extract_lane(places, 0), table)
    const inB = bitOf(i32x4.extract_lane(places, 1), table)
    const inC = bitOf(i32x4.extract_lane(places, 2), table)
    const inD = bitOf(i32x4.extract_lane(places, 3), table)
    if (((inA | inB | inC | inD) & 1) == 0) continue
    if (inA & 1) out = probe(units, gram, i32x4.extract_lane(hashes, 0), table, out)
    if (inB & 1) out = probe(units, gram + step, i32x4.extract_lane(hashes, 1), table, out)
    if (inC & 1) out = probe(units, gram + 2 * step, i32x4.extract_lane(hashes, 2), table, out)
    if (inD & 1) out = probe(units, gram + 3 * step, i32x4.extract_lane(hashes, 3), table, out)
  }
  return scanEach(units, gram, end, size, step, table, out, last)
}

function scanSix(units: usize, begin: usize, end: usize, step: usize, table: usize, first: usize, last: usize): usize {
  const shift = load<u32>(table)
  let out = first
  let gram = begin
  for (; gram + 3 * step < end && out <= last; gram += 4 * step) {
    const a = hashSix(gram)
    const b = hashSix(gram + step)
    const c = hashSix(gram + 2 * step)
    const d = hashSix(gram + 3 * step)
    const inA = bitOf(a >> shift, table)
    const inB = bitOf(b >> shift, table)
    const inC = bitOf(c >> shift, table)
    const inD = bitOf(d >> shift, table)
    if (((inA | inB | inC | inD) & 1) == 0) continue
    if (inA & 1) out = probe(units, gram, a, table, out)
    if (inB & 1) out = probe(units, gram + step, b, table, out)
    if (inC & 1) out = probe(units, gram + 2 * step, c, table, out)
    if (inD & 1) out = probe(units, gram + 3 * step, d, table, out)
  }
  return scanEach(units, gram, end, 6, step, table, out, last)
}

// @ts-ignore: decorator
@inline
function bitOf(place: u32, table: usize): u32 {
  return load<u32>(table + ((place >> 5) << 2), 16) >> place
}

// The bit of a gram's hash is set: its entries are compared with what stands beside it, since a gram alone is common.
function probe(units: usize, gram: usize, h: u32, table: usize, to: usize): usize {
  const most = load<u32>(table, 4)
  const slots = table + load<u32>(table, 8)
  const entries = table + load<u32>(table, 12)
  let slot = h & most
  let entry = load<i32>(slots + (slot << 3))
  while (entry >= 0 && load<u32>(slots + (slot << 3), 4) != h) {
    slot = (slot + 1) & most
    entry = load<i32>(slots + (slot << 3))
  }
  let out = to
  for (let n: u32 = 0; entry >= 0; n++) {
    if (n == MAX_IN_A_ROW) return note(out, units, gram, -2 - entry)
    const at = entries + (entry << 4)
    const beside = load<u64>(gram + (<isize>load<i16>(at, 12) << 1))
    const known = <u32>load<u16>(at, 14)
    if (known == 0 || (beside & maskOf(known)) == load<u64>(at)) out = note(out, units, gram, entry)
    entry = load<i32>(at, 8)
  }
  return out
}

// @ts-ignore: decorator
@inline
function note(out: usize, units: usize, gram: usize, entry: i32): usize {
  store<u32>(out, (gram - units) >> 1)
  store<i32>(out, entry, 4)
  return out + 8
}
