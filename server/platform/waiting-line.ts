import { CallerLeft, callerSignal, mustBeThere } from './caller'
import { Problem } from './problem'

/** So many things of one person wait in one line; more are refused. */
const MAX_WAITING = 100

/** Those who wait for something, each with what they wait for. Who waits leaves the line when their client leaves. */
export class WaitingLine {
  readonly #waiting = new Map<string, (() => void)[]>()

  /**
   * Waits until it is its turn.
   * @throws CallerLeft where the client leaves before; 429 where too much of theirs waits already
   */
  async wait(who: string): Promise<void> {
    mustBeThere()
    const signal = callerSignal()
    const own = this.#waiting.get(who) ?? []
    if (own.length >= MAX_WAITING) throw tooMany()
    this.#waiting.set(who, own)
    return new Promise((resolve, reject) => {
      const begin = () => {
        signal?.removeEventListener('abort', leave)
        resolve()
      }
      const leave = () => {
        own.splice(own.indexOf(begin), 1)
        if (!own.length) this.#waiting.delete(who)
        reject(new CallerLeft())
      }
      own.push(begin)
      signal?.addEventListener('abort', leave, { once: true })
    })
  }

  /** Lets the first thing that `who` waits for begin. @returns false where nothing of theirs waits */
  next(who: string): boolean {
    const own = this.#waiting.get(who)
    const begin = own?.shift()
    if (own?.length === 0) this.#waiting.delete(who)
    begin?.()
    return begin !== undefined
  }

  /** Lets the next person's first thing begin; who waits for more goes to the end of the round. @returns false where nobody waits */
  nextInTurn(): boolean {
    const [first] = this.#waiting
    if (!first) return false
    const [who, own] = first
    const begin = own.shift()!
    this.#waiting.delete(who)
    if (own.length) this.#waiting.set(who, own)
    begin()
    return true
  }
}

function tooMany(): Problem {
  return new Problem(
    429,
    'Too many requests',
    `${MAX_WAITING} of your requests are already waiting. Wait until they are answered, then try again.`,
    { headers: { 'retry-after': '5' } },
  )
}
