import { EntryTable, IndexedPolicy, type EntryTableData, type Policy } from '#core'

/** A policy as it is handed to a thread: the clauses are copied, the entries lie in memory that all threads share. */
export interface Edition {
  /** Counted up by every loading, and by every policy that is only tried. */
  number: number
  policy: Policy
  table: EntryTableData
}

/**
 * The editions of the policy that a thread holds ready: those it was asked for last. A message can be decided before and after
 * a change without either being built anew.
 */
export class Editions {
  private readonly held = new Map<number, IndexedPolicy>()

  /** @param most so many at a time; the one that was not asked for longest goes first */
  constructor(private readonly most: number) {}

  /** The policy of that number; null where it is not held and does not come along. */
  take(number: number, coming: Edition | undefined): IndexedPolicy | null {
    const there = this.held.get(number) ?? (coming ? IndexedPolicy.build(coming.policy, new EntryTable(coming.table)) : null)
    if (!there) return null
    this.held.delete(number)
    this.held.set(number, there)
    for (const oldest of this.held.keys()) {
      if (this.held.size <= this.most) break
      this.held.delete(oldest)
    }
    return there
  }

  get size(): number {
    return this.held.size
  }
}
