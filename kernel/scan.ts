// The two inner loops of looking for phrases, compiled to WebAssembly: the same loops in JavaScript cost several times as
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
    // Sixteen at a time while no white space follows white space; a block that ends in white space leaves it to the next.
    while (at + 16 < length) {
      const block = v128.load(source + at)
      if (i8x16.bitmask(block) != 0) break
      const white = v128.or(i8x16.eq(block, i8x16.splat(32)), i8x16.lt_u(i8x16.sub(block, i8x16.splat(9)), i8x16.splat(5)))
      const bits = i8x16.bitmask(white)
      if ((bits & (bits >> 1)) != 0 || ((bits & 0x8000) != 0 && isWhite(load<u8>(source + at, 16)))) break
      const upper = i8x16.lt_u(i8x16.sub(block, i8x16.splat(65)), i8x16.splat(26))
      const lower = v128.or(block, v128.and(upper, i8x16.splat(32)))
      const out = v128.bitselect(i8x16.splat(32), lower, white)
      v128.store(units + (count << 1), i16x8.extend_low_i8x16_u(out))
      v128.store(units + (count << 1), i16x8.extend_high_i8x16_u(out), 16)
      at += 16
      count += 16
      last = at - 1
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
 * The hash of a gram.
 * @param size 1 to 4 units, or 6; at least 4 units beyond its begin may be read
 */
export function hash(gram: usize, size: u32): u32 {
  return size == 6 ? hashSix(gram) : hashFew(gram, maskOf(size))
}

// @ts-ignore: decorator
@inline
function maskOf(size: u32): u64 {
  return size == 4 ? <u64>-1 : (<u64>1 << (size << 4)) - 1
}

// @ts-ignore: decorator
@inline
function hashFew(gram: usize, mask: u64): u32 {
  return <u32>(((load<u64>(gram) & mask) * MULTIPLIER) >> 32)
}

// @ts-ignore: decorator
@inline
function hashSix(gram: usize): u32 {
  return <u32>(((load<u64>(gram) ^ (<u64>load<u32>(gram, 8) * 0xC2B2AE3D27D4EB4F)) * MULTIPLIER) >> 32)
}

/**
 * Goes through a text gram by gram, and notes where a gram that is looked for may begin.
 * @param until the unit before which grams begin
 * @param stride how many units on the next gram is asked
 * @param bits a set of hashes; a hash's place is its upper bits
 * @param shift 32 less the set's logarithm
 * @param found where what is found goes, with room for every gram: pairs of 32 bits, the unit and the hash
 * @returns how many were found
 */
export function scan(units: usize, until: u32, size: u32, stride: u32, bits: usize, shift: u32, found: usize): u32 {
  const end = units + (until << 1)
  const step = stride << 1
  if (size == 6) return scanSix(units, end, step, bits, shift, found)
  if (size == 4) return scanFour(units, end, step, bits, shift, found)
  if (size == 3) return scanThree(units, end, step, bits, shift, found)
  const mask = maskOf(size)
  let out = found
  for (let gram = units; gram < end; gram += step) {
    const h = hashFew(gram, mask)
    if (bitOf(h, bits, shift) & 1) out = note(out, (gram - units) >> 1, h)
  }
  return (out - found) >> 3
}

// Four grams at a time: what they ask of memory overlaps, and one branch does for all of them where none is in the set. The
// loops differ in the hash alone, and are written out since the compiler does not take a function by its argument.
function scanSix(units: usize, end: usize, step: usize, bits: usize, shift: u32, found: usize): u32 {
  let out = found
  let gram = units
  for (; gram + 3 * step < end; gram += 4 * step) {
    const a = hashSix(gram)
    const b = hashSix(gram + step)
    const c = hashSix(gram + 2 * step)
    const d = hashSix(gram + 3 * step)
    const inA = bitOf(a, bits, shift)
    const inB = bitOf(b, bits, shift)
    const inC = bitOf(c, bits, shift)
    const inD = bitOf(d, bits, shift)
    if (((inA | inB | inC | inD) & 1) == 0) continue
    const unit = (gram - units) >> 1
    const stride = step >> 1
    if (inA & 1) out = note(out, unit, a)
    if (inB & 1) out = note(out, unit + stride, b)
    if (inC & 1) out = note(out, unit + 2 * stride, c)
    if (inD & 1) out = note(out, unit + 3 * stride, d)
  }
  for (; gram < end; gram += step) {
    const h = hashSix(gram)
    if (bitOf(h, bits, shift) & 1) out = note(out, (gram - units) >> 1, h)
  }
  return (out - found) >> 3
}

function scanFour(units: usize, end: usize, step: usize, bits: usize, shift: u32, found: usize): u32 {
  let out = found
  let gram = units
  for (; gram + 3 * step < end; gram += 4 * step) {
    const a = hashFour(gram)
    const b = hashFour(gram + step)
    const c = hashFour(gram + 2 * step)
    const d = hashFour(gram + 3 * step)
    const inA = bitOf(a, bits, shift)
    const inB = bitOf(b, bits, shift)
    const inC = bitOf(c, bits, shift)
    const inD = bitOf(d, bits, shift)
    if (((inA | inB | inC | inD) & 1) == 0) continue
    const unit = (gram - units) >> 1
    const stride = step >> 1
    if (inA & 1) out = note(out, unit, a)
    if (inB & 1) out = note(out, unit + stride, b)
    if (inC & 1) out = note(out, unit + 2 * stride, c)
    if (inD & 1) out = note(out, unit + 3 * stride, d)
  }
  for (; gram < end; gram += step) {
    const h = hashFour(gram)
    if (bitOf(h, bits, shift) & 1) out = note(out, (gram - units) >> 1, h)
  }
  return (out - found) >> 3
}

function scanThree(units: usize, end: usize, step: usize, bits: usize, shift: u32, found: usize): u32 {
  let out = found
  let gram = units
  for (; gram + 3 * step < end; gram += 4 * step) {
    const a = hashThree(gram)
    const b = hashThree(gram + step)
    const c = hashThree(gram + 2 * step)
    const d = hashThree(gram + 3 * step)
    const inA = bitOf(a, bits, shift)
    const inB = bitOf(b, bits, shift)
    const inC = bitOf(c, bits, shift)
    const inD = bitOf(d, bits, shift)
    if (((inA | inB | inC | inD) & 1) == 0) continue
    const unit = (gram - units) >> 1
    const stride = step >> 1
    if (inA & 1) out = note(out, unit, a)
    if (inB & 1) out = note(out, unit + stride, b)
    if (inC & 1) out = note(out, unit + 2 * stride, c)
    if (inD & 1) out = note(out, unit + 3 * stride, d)
  }
  for (; gram < end; gram += step) {
    const h = hashThree(gram)
    if (bitOf(h, bits, shift) & 1) out = note(out, (gram - units) >> 1, h)
  }
  return (out - found) >> 3
}

// @ts-ignore: decorator
@inline
function hashFour(gram: usize): u32 {
  return hashFew(gram, <u64>-1)
}

// @ts-ignore: decorator
@inline
function hashThree(gram: usize): u32 {
  return hashFew(gram, 0xFFFFFFFFFFFF)
}

// @ts-ignore: decorator
@inline
function bitOf(h: u32, bits: usize, shift: u32): u32 {
  const place = h >> shift
  return load<u32>(bits + ((place >> 5) << 2)) >> place
}

// @ts-ignore: decorator
@inline
function note(out: usize, unit: u32, h: u32): usize {
  store<u32>(out, unit)
  store<u32>(out, h, 4)
  return out + 8
}
