import isSame from 'fast-deep-equal'
import { decide, directionOf, stagesOf, type Copy, type Looking, type Match, type Decision } from '../decide'
import { replayed, withoutEntriesOf, type PolicyChange } from '../change'
import { ChangedPolicy, type IndexedPolicy } from '../lookup'
import type { Message } from '../message'
import { differingIn } from './differing'
import { isOverriding, recipientOf, tierKey, type Policy } from '../policy'

/** Two policies between which little differs. */
export interface Pair {
  before: ChangedPolicy
  after: ChangedPolicy
  /** The one of the two that has all its indexes, as it is asked to decide: it says the same, and sooner. */
  base: { is: 'before' | 'after', policy: IndexedPolicy }
  /** Rules that stand elsewhere in the order, though they say the same: see `movedRules`. */
  moved: ReadonlySet<string>
  /** What stands behind all clauses differs, too: then every copy is decided under both. */
  everywhere: boolean
}

/**
 * The policy of the indexes, and the same after changes; or before them.
 * @param net differences that make the other one of it (see `differences`); its entries with their ids
 * @param back they make the earlier one of the two
 */
export function pairOf(base: IndexedPolicy, net: readonly PolicyChange[], back = false): Pair {
  const { policy } = base.compiled
  const other = replayed(withoutEntriesOf(policy), net)
  const sides = differingIn(policy, other, net)
  const [there, made] = [new ChangedPolicy(base, policy, sides.before), new ChangedPolicy(base, other, sides.after)]
  const how = {
    moved: movedRules(policy, other),
    everywhere: !isSame(policy.thresholds, other.thresholds),
    base: { is: back ? 'after' as const : 'before' as const, policy: base },
  }
  return back ? { before: made, after: there, ...how } : { before: there, after: made, ...how }
}

/** One copy under both policies. */
export interface Simulated {
  before: Decision
  after: Decision
}

/** Rules that are in both policies and whose place among other kinds of clauses differs. */
export function movedRules(before: Pick<Policy, 'rules'>, after: Pick<Policy, 'rules'>): Set<string> {
  const was = new Map(before.rules.map(r => [r.id, r]))
  return new Set(
    after.rules
      .filter((r) => {
        const b = was.get(r.id)
        return b && (b.owner !== r.owner || (b.mandatory === true) !== (r.mandatory === true) || isOverriding(b) !== isOverriding(r))
      })
      .map(r => r.id),
  )
}

/**
 * Decides a copy under both policies, where what differs between them finds something else in it. Null where it does not: then
 * the copy ends where it ended, whatever else stands in the policies.
 * @param now ISO 8601 instant against which expiry is decided
 */
export function simulateCopy(message: Message, recipient: string, pair: Pair, now: string): Simulated | null {
  return simulateEach(message, recipient, [pair], now)[0]!
}

/** The same for each of several pairs that have the policy before in common: what the copy came to under that is decided once. */
export function simulateEach(message: Message, recipient: string, pairs: readonly Pair[], now: string): (Simulated | null)[] {
  let known: Decision | undefined
  return pairs.map((pair) => {
    if (!pair.everywhere && !isTouched(message, recipient, pair, now)) return null
    known ??= decide(message, recipient, decidingOf(pair, 'before'), { now })
    return { before: known, after: decide(message, recipient, decidingOf(pair, 'after'), { now }) }
  })
}

function decidingOf({ base, ...pair }: Pair, is: 'before' | 'after'): Looking {
  return base.is === is ? base.policy : pair[is]
}

function isTouched(message: Message, recipient: string, { before, after, moved }: Pick<Pair, 'before' | 'after' | 'moved'>, now: string): boolean {
  const { address, tiers } = recipientOf(before.compiled, recipient)
  const direction = directionOf(message.attempt, address, before.compiled.policy.trust)
  return stagesOf(direction).some((stage) => {
    const copy: Copy = { message, recipient: address, direction, stage, now }
    const own = stage === 'outbound' ? everybody(before, after) : tiers
    const [was, is] = [before, after].map(p => p.ownMatches(copy, own).filter(speaks))
    return !isSame(was!.map(said), is!.map(said)) || is!.some(m => moved.has(m.clause.id))
  })
}

// Outbound it is the sender's clauses that stand over a copy: which those are, deciding finds out.
function everybody(...policies: readonly Looking[]): string[] {
  const clauses = policies.flatMap(({ compiled: { policy } }) => [...policy.rules, ...policy.assignments])
  return [...new Set(clauses.flatMap(({ owner }) => [tierKey({ owner, mandatory: false }), tierKey({ owner, mandatory: true })]))]
}

/** What watches, does not count or is excepted moves no copy. */
function speaks(match: Match): boolean {
  return match.state === 'enabled' && match.lost === null && match.excepted === null
}

function said({ clause, owner, mandatory, claims, end }: Match) {
  return { clause: clause.id, entry: clause.entry?.id ?? null, owner, mandatory, claims, end }
}
