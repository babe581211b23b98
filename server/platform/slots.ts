import { mustBeThere } from './caller'
import { WaitingLine } from './waiting-line'

/** A slot that is held for so long, in milliseconds, is returned: work that never ends must not lock its user out. */
const MAX_HOLD = 10 * 60_000

/**
 * So many things at a time for each person; what is more waits, in the order in which it came, and takes nothing from the others. What
 * waits is discarded when its client leaves.
 */
export class Slots {
  readonly #running = new Map<string, number>()
  readonly #line = new WaitingLine()

  /** @param most how many things of one at a time */
  constructor(private readonly most: number, private readonly maxHold = MAX_HOLD) {}

  /**
   * Does it when one of `who`'s slots is free; rejects as the work does.
   * @throws CallerLeft where the client left before the work began; 429 where too much waits
   */
  async take<T>(who: string, work: () => T | Promise<T>): Promise<T> {
    await this.#slotOf(who)
    let held = true
    const returnMail = () => {
      if (held) this.#leave(who)
      held = false
    }
    const clock = setTimeout(returnMail, this.maxHold).unref()
    try {
      return await work()
    }
    finally {
      clearTimeout(clock)
      returnMail()
    }
  }

  async #slotOf(who: string): Promise<void> {
    mustBeThere()
    const running = this.#running.get(who) ?? 0
    if (running >= this.most) return this.#line.wait(who)
    this.#running.set(who, running + 1)
  }

  // Whoever waits takes the slot over.
  #leave(who: string): void {
    if (this.#line.next(who)) return
    const left = this.#running.get(who)! - 1
    if (left) this.#running.set(who, left)
    else this.#running.delete(who)
  }
}

/** Of all connections and threads one user takes so many at a time; what is more waits for the first of them. */
export const requestSlots = new Slots(4)
