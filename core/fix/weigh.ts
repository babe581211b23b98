import { apply, completed, differences } from '../change'
import { decide } from '../decide'
import { IndexedPolicy } from '../lookup'
import type { Message } from '../message'
import type { Policy } from '../policy'
import { pairOf, simulateCopy, ImpactCounter, type Impact } from '../simulate'
import { causesOf, isAsItShould, isVerified, markedAs, type Mistake } from './causes'
import { candidatesFor, type Making } from './candidates'
import { priceOf, rankFixes, ratesOf, type Ranked } from './rank'
import type { Candidate } from './types'

/** A copy of an archive that is held in memory. */
export interface ArchivedCopy {
  id: number
  message: Message
  recipient: string
  judgement: 'wanted' | 'unwanted' | null
}

/** A fix with what it does to an archive. */
export interface Fix extends Candidate, Ranked {
  impact: Impact
}

/**
 * The fixes for copies that went wrong, the best first: candidates are applied and simulated over the whole archive.
 * @param policy with its entries
 * @param mistakes copies of the archive that all went wrong in the same way
 * @param now ISO 8601 instant against which expiry is decided
 */
export function fixesFor(
  policy: Policy,
  mistakes: readonly Mistake[],
  { archive, now, ...making }: Making & { archive: readonly ArchivedCopy[], now: string },
): Fix[] {
  const indexed = IndexedPolicy.build(policy)
  const caused = mistakes.map(m => causesOf(m, indexed, now)).filter(b => !b.right)
  const [first] = caused
  if (!first) return []
  const wrong = new Set(caused.map(b => b.id))
  const asMarked = archive.map(copy => ({ ...copy, judgement: wrong.has(copy.id) ? markedAs(first.should) : copy.judgement }))
  const laneOf = ({ message, recipient }: ArchivedCopy) => decide(message, recipient, indexed, { now }).lane
  const rates = ratesOf(asMarked.flatMap(c => (c.judgement ? [{ judgement: c.judgement, lane: laneOf(c), copies: 1 }] : [])))
  const fixes = candidatesFor(policy, caused, making).flatMap((candidate): Fix[] => {
    const applied = apply(policy, completed(candidate.changes, { id: making.id, now, by: null }))
    if ('problems' in applied) return []
    const pair = pairOf(indexed, differences(policy, applied.policy))
    const counter = new ImpactCounter(true)
    for (const { id, message, recipient, judgement } of asMarked) {
      const both = simulateCopy(message, recipient, pair, now)
      if (!both) continue
      const sender = message.content.from[0]?.key ?? ''
      const known = { id, judgement, lane: both.before.lane, recipient, sender, verified: isVerified({ message }) }
      counter.add({ ...NOTHING_KNOWN, ...known }, both.before, both.after)
    }
    const looked = asMarked.length
    const impact = counter.report({ looked, inScope: looked, delivered: 0, stopped: 0, unknown: 0 })
    const right = caused.filter(b => isAsItShould(b.should, decide(b.message, b.recipient, pair.after, { now })))
    return [{ ...candidate, impact, fixes: right.length, price: priceOf(impact.lanes, first.should, rates) }]
  })
  return rankFixes(fixes, caused.length)
}

const NOTHING_KNOWN = {
  at: 0,
  quarantine: null,
  byHand: false,
  senderDomain: '',
  implied: false,
  opened: false,
  earlier: 0,
  earlierStopped: 0,
}
