import type { MessagePort } from 'node:worker_threads'
import type { ImpactCounts } from '#core/simulate'
import type { Passed } from './newest-first'

/*
 * Two threads share a simulation: one leads, another joins it where it takes long, and may never come. Both go through the same mail of
 * one snapshot in the same order, piece by piece; whose a piece is says a counter in shared memory.
 *
 *   shared   [number of the next piece, state of the second thread]
 *   state    0 it has not come   1 it has joined, and is waited for   2 it is too late
 *   port     leading: the snapshot, once    helping: what it found, now and then; null at its end
 */
const NEXT = 0
const STATE = 1
const [OPEN, JOINED, CLOSED] = [0, 1, 2]

/** Milliseconds for which the second thread waits for the first: where that has ended, nothing comes. */
const PATIENCE = 5000

/** One end of what two threads share. */
export interface SharingEnd {
  shared: Int32Array
  port: MessagePort
}

/** What the second thread found of each alternative, and how far it came; null where it is through. */
export interface Found {
  counts: ImpactCounts[]
  last: Passed | null
}

/** Says which pieces of the mail are one's own, in their order. */
export interface Pieces {
  take(): number
}

/** All of them. */
export function everyPiece(): Pieces {
  let next = 0
  return { take: () => next++ }
}

export function newShared(): Int32Array {
  return new Int32Array(new SharedArrayBuffer(8))
}

/** The end of the thread that answers. */
export class LeadingEnd implements Pieces {
  found: Found | null = null
  private readonly ended: Promise<void>

  constructor(private readonly link: SharingEnd) {
    this.ended = new Promise((ended) => {
      link.port.on('message', (found: Found | null) => {
        if (found) this.found = found
        else ended()
      })
      // It broke, and says nothing any more.
      link.port.on('close', () => ended())
    })
  }

  /** From here on the other one may join. */
  offer(snapshot: string): void {
    this.link.port.postMessage(snapshot)
  }

  take(): number {
    return Atomics.add(this.link.shared, NEXT, 1)
  }

  /** How far both came, where this one came so far; null where that is not known yet. */
  bothCame(own: Passed): Passed | null {
    if (Atomics.load(this.link.shared, STATE) !== JOINED) return own
    const other = this.found && this.found.last
    if (!other) return null
    return other.at > own.at || (other.at === own.at && other.id > own.id) ? other : own
  }

  /** Waits until the other one is through, too. @throws where it broke */
  async finished(): Promise<void> {
    if (Atomics.compareExchange(this.link.shared, STATE, OPEN, CLOSED) !== JOINED) return
    await this.ended
    if (this.found?.last !== null) throw new Error('the second thread of a simulation ended early')
  }

  end(): void {
    Atomics.compareExchange(this.link.shared, STATE, OPEN, CLOSED)
    // Nobody takes a piece any more.
    Atomics.store(this.link.shared, NEXT, 1_000_000_000)
    this.link.port.close()
  }
}

/** The end of the thread that joins. */
export class HelpingEnd implements Pieces {
  constructor(private readonly link: SharingEnd) {}

  /** The snapshot of which the mail is; null where the other one has ended. */
  snapshot(): Promise<string | null> {
    return new Promise((said) => {
      this.link.port.once('message', said)
      this.link.port.once('close', () => said(null))
      setTimeout(() => said(null), PATIENCE).unref()
    })
  }

  /** @returns false where it is too late */
  join(): boolean {
    return Atomics.compareExchange(this.link.shared, STATE, OPEN, JOINED) === OPEN
  }

  take(): number {
    return Atomics.add(this.link.shared, NEXT, 1)
  }

  tell(found: Found): void {
    this.link.port.postMessage(found)
  }

  end(): void {
    this.link.port.postMessage(null)
    this.link.port.close()
  }
}
