import { mustBeThere } from './caller'
import { WaitingLine } from './waiting-line'

/**
 * Does one thing at a time, and serves those who wait in turn (round robin by person): one small task waits for at most one
 * large task of each other person. A waiting task costs memory only, no connection and no thread, and is dropped when its client leaves.
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
