/** A small seeded generator (mulberry32, public domain): the same seed gives the same scenario. */
export class Random {
  constructor(private state: number) {}

  /** At least 0 and below 1. */
  next(): number {
    this.state = (this.state + 0x6D2B79F5) | 0
    let t = Math.imul(this.state ^ (this.state >>> 15), 1 | this.state)
    t = (t + Math.imul(t ^ (t >>> 7), 61 | t)) ^ t
    return ((t ^ (t >>> 14)) >>> 0) / 4294967296
  }

  /** A whole number from `least` to `most`, both included. */
  between(least: number, most: number): number {
    return least + Math.floor(this.next() * (most - least + 1))
  }

  chance(share: number): boolean {
    return this.next() < share
  }

  pick<T>(items: readonly T[]): T {
    return items[Math.floor(this.next() * items.length)]!
  }
}
