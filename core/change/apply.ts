import { drained } from './drained'
import { IndexedClauses } from './indexed-clauses'
import { problemsIn } from './problems'
import type { ChangeProblem, Clauses, PolicyChange } from './types'

/** What changes come to: the policy after them, or why they cannot be made. */
export type Applied<P> = { policy: P } | { problems: ChangeProblem[] }

/**
 * Applies changes to a policy, all or none. Everything in them has its id (see `completed`). What they refer to is looked for in
 * what they come to together, so that two names may be exchanged, and a thing replaced by another of its name. The time grows with
 * the policy and the changes together, not with their product.
 */
export function apply<P extends Clauses>(policy: P, changes: readonly PolicyChange[]): Applied<P> {
  return drained(applyingTo(policy, changes))
}

/** The same, piece by piece: it yields after each change, and within one that has many entries. */
export function* applyingTo<P extends Clauses>(policy: P, changes: readonly PolicyChange[]): Generator<undefined, Applied<P>> {
  const problems: ChangeProblem[] = []
  const clauses = new IndexedClauses(policy)
  for (const [i, change] of changes.entries()) {
    for (const piece of piecesOf(change)) {
      const message = clauses.apply(piece)
      if (message !== null) problems.push({ change: i, field: '', message, stale: true })
      yield
    }
  }
  const after = clauses.clauses()
  yield
  if (!problems.length) problems.push(...problemsIn(policy, after, changes))
  return problems.length ? { problems } : { policy: after }
}

/** Entries that are put on a list or taken off in one piece. */
const PIECE = 250

/** A change of many entries as several of some, which together do the same. */
export function piecesOf(change: PolicyChange): PolicyChange[] {
  if (!('entries' in change) || change.entries.length <= PIECE) return [change]
  return Array.from({ length: Math.ceil(change.entries.length / PIECE) }, (_, n) =>
    ({ ...change, entries: change.entries.slice(n * PIECE, (n + 1) * PIECE) }) as PolicyChange)
}

/** The same policy with lists that hold no entries: what stands on them may be a million, and most questions do not ask for it. */
export function withoutEntriesOf<P extends Pick<Clauses, 'lists'>>(policy: P): P {
  return { ...policy, lists: policy.lists.map(l => ({ ...l, entries: [] })) }
}

/**
 * The policy after differences that were found between two policies: what lapsed with them is among them.
 * @throws where it is not a policy to which they belong
 */
export function replayed<P extends Clauses>(policy: P, net: readonly PolicyChange[]): P {
  const clauses = new IndexedClauses(policy)
  for (const change of net) {
    const problem = clauses.replay(change)
    if (problem !== null) throw new Error(problem)
  }
  return clauses.clauses()
}
