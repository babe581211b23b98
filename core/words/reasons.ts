import { hazardOf, type ClauseRef, type Reason, type ReasonOutcome, type Decision } from '../decide'
import { claimsWords, HAZARD_WORDS } from './sentences'
import { entryKindOf, entryWords } from '../kinds'
import { counted, oneOf, quoted } from '../wording'
import { evidenceWords, laneInSentence, LANE_NAMES, notCountedWords, type Names } from './names'
import type { Lane, Owner, Stop } from '../policy'

/** "rule “Fee demands”", "list “Regular callers”". */
export function clauseWords(clause: ClauseRef): string {
  if (clause.others) return `a colleague’s ${clause.kind === 'list' ? 'list' : 'rule'}`
  if (clause.kind === 'score') return `the score (${clause.name})`
  if (clause.kind === 'learned') return 'learned Low priority'
  return `${clause.kind} ${quoted(clause.name)}`
}

/**
 * What became of a claim, in a few words.
 * @param stopped what stopped the copy, where something did: an allow entry need not cover it
 */
export function outcomeWords(
  reason: Pick<Reason, 'outcome' | 'claim'> & { clause?: Pick<ClauseRef, 'entry'> },
  names: Names,
  stopped: Stop | null = null,
): string {
  const { outcome } = reason
  switch (outcome.kind) {
    case 'comesAfter':
      return `comes after ${clauseWords(outcome.by)}`
    case 'overriddenBy':
      return `overridden by ${clauseWords(outcome.by)}`
    case 'replacedBy':
      return `replaced by ${clauseWords(outcome.by)}`
    case 'allowTooLate':
      return `allow entry comes too late: ${clauseWords(outcome.by)} comes first`
    case 'notReached':
      return `not reached: ${clauseWords(outcome.by)} stops later rules`
    case 'notCounted':
      return `does not count: ${namesNoDomain(reason) ? NO_DOMAIN : notCountedWords(outcome.why)}`
    case 'excepted':
      return outcome.evidence.length ? `an exception applies: ${evidenceWords(outcome.evidence)}` : 'an exception applies'
    case 'monitored':
      return outcome.changes
        ? `monitor only, would have gone to ${laneInSentence(outcome.would.lane, outcome.would.quarantine, names)}`
        : 'monitor only, would have changed nothing'
    case 'waiting':
      return 'applies on release'
    case 'protected':
      return stopped ? `allow entry matched, but it does not cover ${HAZARD_WORDS[hazardOf(stopped)]}` : 'allowed'
    case 'decided':
    case 'placed':
      return 'decided'
    case 'sameResult':
      return 'same result'
    case 'applied':
      return 'applied'
    case 'notApplied':
      return 'not applied'
  }
}

const NO_DOMAIN = 'only verified senders count, and the entry names no domain that could be verified'

// “Everyone”, or words: however well the sender of a message is verified.
function namesNoDomain({ outcome, clause }: { outcome: ReasonOutcome, clause?: Pick<ClauseRef, 'entry'> }): boolean {
  const entry = clause?.entry
  return outcome.kind === 'notCounted' && outcome.why === 'notVerified' && entry !== undefined && !entryKindOf(entry.kind).verifiable(entry.value)
}

/** What a claim asks for: "move to Spam". */
export function claimText(reason: Pick<Reason, 'claim'>, names: Names): string {
  return claimsWords([reason.claim], names)
}

function isErased({ reasons, decidedBy }: Pick<Decision, 'reasons' | 'decidedBy'>): boolean {
  const claim = decidedBy === null ? undefined : reasons[decidedBy]?.claim
  return claim !== undefined && 'stop' in claim && claim.stop.to === 'erase'
}

function isFiled({ reasons }: Pick<Decision, 'reasons'>): boolean {
  return reasons.some(({ claim, outcome }) => outcome.kind === 'placed' && 'place' in claim && claim.place.to === 'filed')
}

/** One sentence that says why the copy is where it is. */
export function decisionSentence(decision: Pick<Decision, 'lane' | 'quarantine' | 'reasons' | 'decidedBy'>, names: Names): string {
  const lead = {
    inbox: isFiled(decision) ? 'Moved to Filed' : 'Delivered to Inbox',
    lowPriority: 'Delivered to Low priority',
    spam: 'Moved to Spam',
    quarantine: `Held in ${laneInSentence(decision.lane, decision.quarantine, names)}`,
    bin: 'Moved to Bin',
    refused: 'Refused',
    discarded: isErased(decision) ? 'Deleted permanently' : 'Discarded',
    sent: 'Sent',
  }[decision.lane]
  const reason = decision.decidedBy === null ? null : decision.reasons[decision.decidedBy]
  if (!reason) return decision.reasons.length ? `${lead}: no list or rule that matched stops it.` : `${lead}: no list or rule matched.`
  if (reason.clause.others) return `${lead} because of ${clauseWords(reason.clause)}.`
  const { clause } = reason
  if (clause.kind !== 'rule' && clause.kind !== 'list') return `${lead} by ${clauseWords(clause)}: ${evidenceWords(reason.evidence)}.`
  const says = clause.entry ? `has ${entryWords(clause.entry)}` : `found ${evidenceWords(reason.evidence)}`
  return `${lead} because ${clauseWords(clause)} ${says}.`
}

/** That sentence where a person moved the copy since: who moved it where comes first. */
export function movedSentence(
  copy: { lane: Lane, quarantineId: string | null, movedBy: string | null },
  sentence: string,
  names: Pick<Names, 'quarantines'>,
): string {
  if (copy.movedBy === null) return sentence
  return `${copy.movedBy} moved it to ${laneInSentence(copy.lane, copy.quarantineId, names)}. Before that: `
    + `${sentence.charAt(0).toLowerCase()}${sentence.slice(1)}`
}

/** The reason that stands for a decision in a list of messages: what decided, else what protected, else what nearly did something. */
export function mainReason(decision: Pick<Decision, 'reasons' | 'decidedBy'>): Reason | null {
  return (
    (decision.decidedBy === null ? null : decision.reasons[decision.decidedBy]) ??
    decision.reasons.find(r => r.outcome.kind === 'protected') ??
    decision.reasons.find(
      r => r.outcome.kind === 'excepted' || (r.outcome.kind === 'monitored' && r.outcome.changes) || r.outcome.kind === 'notCounted',
    ) ??
    null
  )
}

/** What a list of messages says of why a copy is where it is, as data: the words are made when it is shown. */
export type ShortReason =
  /** No reason stands out; `matched` where something matched all the same. */
  | { kind: 'none', matched: boolean }
  | {
    kind: 'clause'
    clause: Pick<ClauseRef, 'kind' | 'id' | 'name'>
    owner: Owner
    outcome: ReasonOutcome['kind']
    /** Whether it decided the lane. */
    decided: boolean
    /** Whether it is a claim that protects. */
    protects: boolean
    /** The first phrases that it found. */
    phrases: string[]
  }
  /** Deleted permanently: by a person, or after days in a lane. */
  | { kind: 'erased', by: string }
  | { kind: 'expired', lane: 'bin' | 'spam', days: number }

/** Two are shown, and a third says that there are more. */
const MAX_PHRASES = 3

/** The short reason of a decision. */
export function shortReasonOf(decision: Pick<Decision, 'reasons' | 'decidedBy'>): ShortReason {
  const main = mainReason(decision)
  if (!main) return { kind: 'none', matched: decision.reasons.length > 0 }
  const { clause: { kind, id, name }, owner, outcome, claim, evidence } = main
  return {
    kind: 'clause',
    clause: { kind, id, name },
    owner,
    outcome: outcome.kind,
    decided: main === decision.reasons[decision.decidedBy ?? -1],
    protects: 'protect' in claim,
    phrases: [...new Set(evidence.flatMap(e => (e.kind === 'phrase' ? [e.phrase] : [])))].slice(0, MAX_PHRASES),
  }
}

/** A short reason in a few words. @param others the clause is a colleague's own: it is not named */
export function shortReasonWords(reason: ShortReason, others = false): string {
  switch (reason.kind) {
    case 'none':
      return reason.matched ? 'no list or rule that matched stops it' : 'no list or rule matched'
    case 'erased':
      return `deleted permanently by ${reason.by}`
    case 'expired':
      return `deleted permanently after ${counted(reason.days, 'day')} in ${LANE_NAMES[reason.lane]}`
    case 'clause': {
      if (others) return clauseWords({ ...reason.clause, others: true })
      const clause = clauseWords(reason.clause)
      if (reason.decided) {
        if (reason.protects) return `allowed: ${clause}`
        return reason.phrases.length ? `${clause}: ${oneOf(reason.phrases.map(quoted), 'and', 2)}` : clause
      }
      if (reason.outcome === 'protected') return `${reason.clause.kind === 'list' ? 'on ' : 'allowed: '}${clause}`
      if (reason.outcome === 'excepted') return `${clause}: an exception applies`
      return `${clause}: ${reason.outcome === 'monitored' ? 'monitor only' : 'does not count'}`
    }
  }
}
