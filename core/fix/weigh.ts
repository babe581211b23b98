import { apply, completed, differences } from '../change'
import { decide } from '../decide'
import { IndexedPolicy } from '../lookup'
import type { Message } from '../message'
import type { Policy } from '../policy'
import { pairOf, rehearseCopy, Tally, type Impact } from '../simulate'
import { blame, isAsItShould, judgedAs, type Mistake } from './causes'
import { candidatesFor, type Making } from './candidates'
import { priceOf, rankMends, ratesOf, type Ranked } from './rank'
import type { Candidate } from './types'

/** A copy of an archive that is held in memory. */
export interface ArchivedCopy {
  id: number
  message: Message
  recipient: string
  judgement: 'wanted' | 'unwanted' | null
}

/** A mend with what it does to an archive. */
export interface Mend extends Candidate, Ranked {
  impact: Impact
}

/**
 * The mends for copies that went wrong, the best first: candidates are applied and rehearsed over the whole archive.
 * @param policy with its entries
 * @param mistakes copies of the archive that all went wrong in the same way
 * @param now ISO 8601 instant against which expiry is judged
 */
export function mendsFor(
  policy: Policy,
  mistakes: readonly Mistake[],
  { archive, now, ...making }: Making & { archive: readonly ArchivedCopy[], now: string },
): Mend[] {
  const indexed = IndexedPolicy.build(policy)
  const blamed = mistakes.map(m => blame(m, indexed, now)).filter(b => !b.right)
  const [first] = blamed
  if (!first) return []
  const wrong = new Set(blamed.map(b => b.id))
  const asJudged = archive.map(copy => ({ ...copy, judgement: wrong.has(copy.id) ? judgedAs(first.should) : copy.judgement }))
  const laneOf = ({ message, recipient }: ArchivedCopy) => decide(message, recipient, indexed, { now }).lane
  const rates = ratesOf(asJudged.flatMap(c => (c.judgement ? [{ judgement: c.judgement, lane: laneOf(c), copies: 1 }] : [])))
  const mends = candidatesFor(policy, blamed, making).flatMap((candidate): Mend[] => {
    const applied = apply(policy, completed(candidate.changes, { id: making.id, now, by: null }))
    if ('problems' in applied) return []
    const pair = pairOf(indexed, differences(policy, applied.policy))
    const tally = new Tally(true)
    for (const { id, message, recipient, judgement } of asJudged) {
      const both = rehearseCopy(message, recipient, pair, now)
      if (!both) continue
      const known = { id, judgement, lane: both.before.lane, reader: recipient, sender: message.content.from[0]?.key ?? '' }
      tally.add({ ...NOTHING_KNOWN, ...known }, both.before, both.after)
    }
    const looked = asJudged.length
    const impact = tally.report({ looked, delivered: 0, inScope: looked, unknown: 0, complete: true })
    const right = blamed.filter(b => isAsItShould(b.should, decide(b.message, b.recipient, pair.after, { now })))
    return [{ ...candidate, impact, mends: right.length, price: priceOf(impact.lanes, first.should, rates) }]
  })
  return rankMends(mends, blamed.length)
}

const NOTHING_KNOWN = {
  quarantine: null,
  byHand: false,
  senderDomain: '',
  implied: false,
  opened: false,
  verified: false,
  earlier: 0,
  earlierStopped: 0,
}
