const NONE: readonly number[] = []

/** A text as it is compared, with the way back to the text as it was written. */
export class View {
  /**
   * @param units the array may be longer than `length`
   * @param starts where in the source each unit begins, and at `length` where the last one ends; or breaks: pairs of a unit
   * and its place, where a place is not that of the unit before plus one
   * @param joined stretches of units where single letters spaced apart were joined; begin and end in turn
   */
  constructor(readonly units: Uint16Array, readonly length: number, readonly source: string, private readonly places: { starts: Uint32Array } | { breaks: readonly number[] }, readonly joined: readonly number[] = NONE) {}

  /** Where in the source a unit begins; the end of the source for `length`. */
  startOf(unit: number): number {
    if ('starts' in this.places) return this.places.starts[unit]!
    const { breaks } = this.places
    let low = 0
    let high = breaks.length / 2
    while (low < high) {
      const middle = (low + high) >>> 1
      if (breaks[2 * middle]! <= unit) low = middle + 1
      else high = middle
    }
    return low === 0 ? unit : breaks[2 * low - 1]! + unit - breaks[2 * low - 2]!
  }
}

/** A view's text as a string. */
export function viewText(view: View): string {
  let out = ''
  for (let i = 0; i < view.length; i += 8192) out += String.fromCharCode(...view.units.subarray(i, Math.min(i + 8192, view.length)))
  return out
}
