const NONE: readonly number[] = []

/** Where the places of units break off: between two breaks each unit's place is that of the one before, plus one. */
export class Breaks {
  // Pairs of a unit and its place, in order.
  private pairs = new Uint32Array(64)
  private count = 0

  clear(): void {
    this.count = 0
  }

  add(unit: number, place: number): void {
    if (this.count === this.pairs.length) {
      const more = new Uint32Array(this.count * 2)
      more.set(this.pairs)
      this.pairs = more
    }
    this.pairs[this.count] = unit
    this.pairs[this.count + 1] = place
    this.count += 2
  }

  /** Where in the source a unit begins. */
  placeOf(unit: number): number {
    const last = this.lastUpTo(unit)
    return last < 0 ? unit : this.pairs[2 * last + 1]! + unit - this.pairs[2 * last]!
  }

  /** Forgets what only units before this one need. */
  forgetBefore(unit: number): void {
    const last = this.lastUpTo(unit)
    if (last <= 0) return
    this.pairs.copyWithin(0, 2 * last, this.count)
    this.count -= 2 * last
  }

  private lastUpTo(unit: number): number {
    let low = 0
    let high = this.count / 2
    while (low < high) {
      const middle = (low + high) >>> 1
      if (this.pairs[2 * middle]! <= unit) low = middle + 1
      else high = middle
    }
    return low - 1
  }
}

/** A text as it is compared, with the way back to the text as it was written. */
export class View {
  /**
   * @param units the array may be longer than `length`
   * @param starts where in the source each unit begins, and at `length` where the last one ends; or where places break off
   * @param joined stretches of units where single letters spaced apart were joined; begin and end in turn
   */
  constructor(
    readonly units: Uint16Array,
    readonly length: number,
    readonly source: string,
    private readonly starts: Uint32Array | Breaks,
    readonly joined: readonly number[] = NONE,
  ) {}

  /** Where in the source a unit begins; the end of the source for `length`. */
  startOf(unit: number): number {
    return this.starts instanceof Breaks ? this.starts.placeOf(unit) : this.starts[unit]!
  }
}

/** A view's text as a string. */
export function viewText(view: View): string {
  let out = ''
  for (let i = 0; i < view.length; i += 8192) out += String.fromCharCode(...view.units.subarray(i, Math.min(i + 8192, view.length)))
  return out
}
