interface Waiting {
  begin: () => void
}

/**
 * Does one thing at a time, and goes round among those who wait: somebody with one small thing is next but one after whoever
 * came with twenty large ones. What waits costs memory only, no connection and no thread.
 */
export class Turns {
  /** Who waits, in the order of their next turn, each with what they wait for. */
  readonly #waiting = new Map<string, Waiting[]>()
  #busy = false

  /** Does it when it is `who`'s turn; rejects as the work does. */
  async take<T>(who: string, work: () => Promise<T>): Promise<T> {
    await this.#turnOf(who)
    try {
      return await work()
    }
    finally {
      this.#next()
    }
  }

  #turnOf(who: string): Promise<void> {
    if (!this.#busy) {
      this.#busy = true
      return Promise.resolve()
    }
    return new Promise((begin) => {
      const own = this.#waiting.get(who)
      if (own) own.push({ begin })
      else this.#waiting.set(who, [{ begin }])
    })
  }

  #next(): void {
    const [first] = this.#waiting
    if (!first) {
      this.#busy = false
      return
    }
    const [who, own] = first
    const { begin } = own.shift()!
    this.#waiting.delete(who)
    // Who waits for more goes to the end of the round.
    if (own.length) this.#waiting.set(who, own)
    begin()
  }
}
