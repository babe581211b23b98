import { clauseKey, settling, speaking, type ClauseRef, type Looking, type Ruling, type Settling } from '../decide'
import type { Message } from '../message'
import { isDelivered, type CompiledPolicy, type Policy } from '../policy'

/** What should have become of a copy: come to its reader, or been kept away. */
export type Should = 'delivered' | 'stopped'

/** A copy that went wrong. */
export interface Mistake {
  id: number
  message: Message
  recipient: string
  should: Should
}

/** A copy that went wrong, and why. */
export interface Blamed extends Mistake {
  /** Under the policy that is to be mended. */
  ruling: Ruling
  /** It ends where it should: what was wrong has been changed since. */
  right: boolean
  /** The smallest sets of clauses without which, together, it would have ended where it should; none where no three clauses do. */
  sets: ClauseRef[][]
}

/** Clauses of one set at most. */
const MOST_TOGETHER = 3
/** Clauses among which sets are sought: of 24 there are 2,324 sets of up to three. */
const MOST_CLAUSES = 24

/** Whether a copy that ends so ends where it should. */
export function isAsItShould(should: Should, { lane }: Pick<Ruling, 'lane'>): boolean {
  return isDelivered(lane) === (should === 'delivered')
}

/** What of a copy is said that should have ended so. */
export function judgedAs(should: Should): 'wanted' | 'unwanted' {
  return should === 'delivered' ? 'wanted' : 'unwanted'
}

/** What is to blame for a copy that went wrong. @param now ISO 8601 instant against which expiry is judged */
export function blame(mistake: Mistake, policy: Looking | CompiledPolicy | Policy, now: string): Blamed {
  const settled = settling(mistake.message, mistake.recipient, policy, { now })
  const ruling = settled([])
  const right = isAsItShould(mistake.should, ruling)
  return { ...mistake, ruling, right, sets: right ? [] : smallestSets(settled, ruling, mistake.should) }
}

function smallestSets(settled: Settling, ruling: Ruling, should: Should): ClauseRef[][] {
  const clauses = askable(ruling)
  for (let size = 1; size <= MOST_TOGETHER; size++) {
    const sets = [...subsets(clauses, size)].filter(set => isAsItShould(should, settled(set)))
    if (sets.length) return sets
  }
  return []
}

const SPEAKS_FIRST: ReadonlySet<string> = new Set(['decided', 'agreed', 'yielded', 'outranked', 'protected'])

// What never speaks is not to blame. What was not reached may speak once what ended it is gone.
function askable({ reasons }: Ruling): ClauseRef[] {
  const live = speaking(reasons)
  const first = live.filter(r => SPEAKS_FIRST.has(r.fate.kind))
  return [...new Map([...first, ...live].map(r => [clauseKey(r.clause), r.clause])).values()].slice(0, MOST_CLAUSES)
}

function* subsets<T>(of: readonly T[], size: number, from = 0): Generator<T[]> {
  if (size === 0) return yield []
  for (let i = from; i <= of.length - size; i++) for (const rest of subsets(of, size - 1, i + 1)) yield [of[i]!, ...rest]
}
