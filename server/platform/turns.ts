import { mustBeThere } from './caller'
import { WaitingLine } from './waiting-line'

/**
 * Does one thing at a time, and goes round among those who wait: somebody with one small thing is next but one after whoever
 * came with twenty large ones. What waits costs memory only, no connection and no thread, and is discarded when its client leaves.
 */
export class Turns {
  readonly #line = new WaitingLine()
  #busy = false

  /**
   * Does it when it is `who`'s turn; rejects as the work does.
   * @throws CallerLeft where the client left before the work began; 429 where too much waits
   */
  async take<T>(who: string, work: () => Promise<T>): Promise<T> {
    mustBeThere()
    if (this.#busy) await this.#line.wait(who)
    this.#busy = true
    try {
      return await work()
    }
    finally {
      this.#busy = this.#line.nextInTurn()
    }
  }
}
