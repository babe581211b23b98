import { clauseKey, settling, effectiveReasons, type ClauseRef, type Looking, type Decision, type Settling } from '../decide'
import type { Message } from '../message'
import { isDelivered, type CompiledPolicy, type Policy } from '../policy'

/** What should have become of a copy: come to its recipient, or been kept away. */
export type Should = 'delivered' | 'stopped'

/** A copy that went wrong. */
export interface Mistake {
  id: number
  message: Message
  recipient: string
  should: Should
}

/** A copy that went wrong, and why. */
export interface Caused extends Mistake {
  /** Under the policy that is to be fixed. */
  decision: Decision
  /** It ends where it should: what was wrong has been changed since. */
  right: boolean
  /** The smallest sets of clauses without which, together, it would have ended where it should; none where no three clauses do. */
  sets: ClauseRef[][]
}

/** Clauses of one set at most. */
const MAX_TOGETHER = 3
/** Clauses among which sets are sought: of 24 there are 2,324 sets of up to three. */
const MAX_CLAUSES = 24

/** Whether a copy that ends so ends where it should. */
export function isAsItShould(should: Should, { lane }: Pick<Decision, 'lane'>): boolean {
  return isDelivered(lane) === (should === 'delivered')
}

/** Whether authentication passed for a copy's From: what speaks for its sender counts for no other. */
export function isVerified({ message }: Pick<Mistake, 'message'>): boolean {
  return message.attempt.authentication.verdict === 'pass'
}

/** What of a copy is said that should have ended so. */
export function markedAs(should: Should): 'wanted' | 'unwanted' {
  return should === 'delivered' ? 'wanted' : 'unwanted'
}

/** The causes of a copy that went wrong. @param now ISO 8601 instant against which expiry is decided */
export function causesOf(mistake: Mistake, policy: Looking | CompiledPolicy | Policy, now: string): Caused {
  const settled = settling(mistake.message, mistake.recipient, policy, { now })
  const decision = settled([])
  const right = isAsItShould(mistake.should, decision)
  return { ...mistake, decision, right, sets: right ? [] : smallestSets(settled, decision, mistake.should) }
}

function smallestSets(settled: Settling, decision: Decision, should: Should): ClauseRef[][] {
  const clauses = askable(decision)
  for (let size = 1; size <= MAX_TOGETHER; size++) {
    const sets = [...subsets(clauses, size)].filter(set => isAsItShould(should, settled(set)))
    if (sets.length) return sets
  }
  return []
}

const SPEAKS_FIRST: ReadonlySet<string> = new Set(['decided', 'sameResult', 'replacedBy', 'comesAfter', 'protected'])

// What never speaks is not the cause. What was not reached may speak once what ended it is gone.
function askable({ reasons }: Decision): ClauseRef[] {
  const live = effectiveReasons(reasons)
  const first = live.filter(r => SPEAKS_FIRST.has(r.outcome.kind))
  return [...new Map([...first, ...live].map(r => [clauseKey(r.clause), r.clause])).values()].slice(0, MAX_CLAUSES)
}

function* subsets<T>(of: readonly T[], size: number, from = 0): Generator<T[]> {
  if (size === 0) return yield []
  for (let i = from; i <= of.length - size; i++) for (const rest of subsets(of, size - 1, i + 1)) yield [of[i]!, ...rest]
}
