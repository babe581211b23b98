import { apply, completed, differences } from '../change'
import { decide } from '../decide'
import { IndexedPolicy } from '../lookup'
import type { Message } from '../message'
import type { Policy } from '../policy'
import { pairOf, simulateCopy, ImpactCounter, type Crossings, type Impact } from '../simulate'
import { causesOf, isAsItShould, isVerified, markedAs, type Mistake } from './causes'
import { candidatesFor, type Making } from './candidates'
import { coverOf, type Effect } from './cover'
import { harmsOf, isDoubtful, priceOf, rankFixes, ratesOf, senderMarksOf, type Ranked, type Rates } from './rank'
import { together } from './together'
import type { Candidate, FixablePolicy } from './types'

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
  /** It is one of those that together correct most for least harm: see `coverOf`. */
  inCover: boolean
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
  const rates: Rates = {
    ...ratesOf(archive.flatMap(c =>
      (c.judgement && !wrong.has(c.id) ? [{ judgement: c.judgement, lane: laneOf(c), copies: 1 }] : []))),
    senders: senderMarksOf(asMarked.flatMap(({ judgement, message }) =>
      (judgement ? [{ judgement, sender: message.content.from[0]?.key ?? '', verified: isVerified({ message }), copies: 1 }] : []))),
  }
  const found = candidatesFor(policy, caused, making).flatMap((candidate) => {
    const applied = apply(policy, completed(candidate.changes, { id: making.id, now, by: null }))
    if ('problems' in applied) return []
    const pair = pairOf(indexed, differences(policy, applied.policy))
    const counter = new ImpactCounter(true, true)
    for (const { id, message, recipient, judgement } of asMarked) {
      const both = simulateCopy(message, recipient, pair, now)
      if (!both) continue
      const sender = message.content.from[0]?.key ?? ''
      const known = { id, judgement, lane: both.before.lane, recipient, sender, verified: isVerified({ message }) }
      counter.add({ ...NOTHING_KNOWN, ...known }, both.before, both.after)
    }
    const looked = asMarked.length
    const impact = counter.report({ looked, inScope: looked, delivered: 0, stopped: 0, unknown: 0 })
    const corrects = caused.filter(b => isAsItShould(b.should, decide(b.message, b.recipient, pair.after, { now }))).map(b => b.id)
    const { crossings } = counter.so
    const price = priceOf(impact.lanes, first.should, rates, crossings)
    return [{ ...candidate, impact, fixes: corrects.length, price, corrects, crossings }]
  })
  const ranked = rankFixes(found, caused.length)
  const members = new Set(coverOfFixes(policy, ranked, rates))
  return ranked.map(({ corrects: _, crossings: __, ...fix }, i) => ({ ...fix, inCover: members.has(i) }))
}

/** A fix of which is known what it does copy by copy; null where that is too much. */
export interface Followed extends Pick<Candidate, 'changes' | 'opens' | 'publicProvider' | 'usedUp'> {
  /** Ids of the copies that it corrects. */
  corrects: readonly number[]
  crossings: Crossings | null
}

/** Which of the fixes, in their order, together correct most for least harm; none that opens the way for anybody's mail. */
export function coverOfFixes(policy: FixablePolicy, fixes: readonly Followed[], rates: Rates): number[] {
  const careful = [...fixes.keys()].filter(i => fixes[i]!.crossings && !isDoubtful(fixes[i]!))
  // What stops the next message too goes before what only stops these.
  const lasting = chosen(careful.filter(i => !fixes[i]!.usedUp))
  if (lasting.length === 0 || !careful.some(i => fixes[i]!.usedUp)) return lasting.length ? lasting : chosen(careful)
  const all = chosen(careful)
  const corrected = (cover: readonly number[]) => new Set(cover.flatMap(i => fixes[i]!.corrects)).size
  return corrected(lasting) >= corrected(all) ? lasting : all

  function chosen(usable: readonly number[]): number[] {
    const effects = usable.map((i): Effect => {
      const { corrects, crossings } = fixes[i]!
      return { corrects, harms: harmsOf(crossings!, rates) }
    })
    const pairs = new Map<string, boolean>()
    const fits = (a: number, b: number): boolean => {
      const key = a < b ? `${a} ${b}` : `${b} ${a}`
      const known = pairs.get(key) ?? together(policy, [fixes[usable[a]!]!.changes, fixes[usable[b]!]!.changes]) !== null
      pairs.set(key, known)
      return known
    }
    return coverOf(effects, fits).map(i => usable[i]!)
  }
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
