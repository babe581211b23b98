/** So many things at a time for each; what is more waits, in the order in which it came, and takes nothing from the others. */
export class Slots {
  readonly #running = new Map<string, number>()
  readonly #waiting = new Map<string, (() => void)[]>()

  /** @param most how many things of one at a time */
  constructor(private readonly most: number) {}

  /** Does it when one of `who`'s slots is free; rejects as the work does. */
  async take<T>(who: string, work: () => T | Promise<T>): Promise<T> {
    await this.#slotOf(who)
    try {
      return await work()
    }
    finally {
      this.#leave(who)
    }
  }

  #slotOf(who: string): Promise<void> {
    const running = this.#running.get(who) ?? 0
    if (running < this.most) {
      this.#running.set(who, running + 1)
      return Promise.resolve()
    }
    return new Promise((begin) => {
      const own = this.#waiting.get(who)
      if (own) own.push(begin)
      else this.#waiting.set(who, [begin])
    })
  }

  // Whoever waits takes the slot over.
  #leave(who: string): void {
    const own = this.#waiting.get(who)
    const next = own?.shift()
    if (own?.length === 0) this.#waiting.delete(who)
    if (next) return next()
    const left = this.#running.get(who)! - 1
    if (left) this.#running.set(who, left)
    else this.#running.delete(who)
  }
}
