import { DnsError, saysNothingThere, type DnsAnswers, type DnsType, type Resolve } from '#core/verification'

/** Milliseconds for which an answer is kept, and a failure. c-ares does not give the time to live of every type. */
const KEPT = 5 * 60_000
const KEPT_FAILURE = 60_000
/** The oldest go first. */
const MAX_ANSWERS = 10_000
const MAX_UNITS = 16 * 1024 * 1024
/** Questions under way; what comes beyond is not asked. A message has a dozen at once, and 200 connections may each bring one. */
const MAX_PENDING = 3000

interface Kept {
  until: number
  units: number
  answer: Promise<unknown>
}

/** Keeps answers of a resolver for a while, and asks once for what several want at the same time. */
export class DnsCache {
  readonly #kept = new Map<string, Kept>()
  #units = 0
  #pending = 0

  /** @param now milliseconds, for tests */
  constructor(
    private readonly look: Resolve,
    private readonly now: () => number = Date.now,
  ) {}

  readonly resolve: Resolve = <T extends DnsType>(name: string, type: T): Promise<DnsAnswers[T]> => {
    const key = `${type} ${name}`
    const there = this.#kept.get(key)
    if (there && there.until > this.now()) return there.answer as Promise<DnsAnswers[T]>
    if (there) this.#drop(key, there)
    if (this.#pending >= MAX_PENDING) return Promise.reject(new DnsError('ETIMEOUT', 'too many DNS look-ups at once'))
    this.#pending++
    const answer = this.look(name, type).finally(() => this.#pending--)
    // Until it is answered it is kept for all who ask meanwhile.
    const kept: Kept = { until: Infinity, units: key.length, answer }
    this.#kept.set(key, kept)
    this.#units += kept.units
    answer.then(
      records => this.#settle(key, kept, KEPT, JSON.stringify(records).length),
      (error: unknown) => this.#settle(key, kept, saysNothingThere(error) ? KEPT : KEPT_FAILURE, 0),
    )
    return answer
  }

  get size(): number {
    return this.#kept.size
  }

  #settle(key: string, kept: Kept, time: number, units: number): void {
    if (this.#kept.get(key) !== kept) return
    kept.until = this.now() + time
    kept.units += units
    this.#units += units
    for (const [oldest, item] of this.#kept) {
      if (this.#kept.size <= MAX_ANSWERS && this.#units <= MAX_UNITS) break
      if (item.until !== Infinity) this.#drop(oldest, item)
    }
  }

  #drop(key: string, kept: Kept): void {
    this.#kept.delete(key)
    this.#units -= kept.units
  }
}
