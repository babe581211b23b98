import type { ClauseRef, Reason, ReasonOutcome, Decision } from '../decide'
import { claimsWords } from './sentences'
import { entryWords, oneOf, quoted } from '../kinds'
import { evidenceWords, laneInSentence, laneWords, notCountedWords, type Names } from './names'
import type { Lane, Owner } from '../policy'

/** "rule Fee demands", "list Regular callers". */
export function clauseWords(clause: ClauseRef): string {
  if (clause.others) return `a colleague’s ${clause.kind === 'list' ? 'list' : 'rule'}`
  if (clause.kind === 'score') return `the score (${clause.name})`
  if (clause.kind === 'learned') return 'learned low priority'
  return `${clause.kind} ${clause.name}`
}

/** What became of a claim, in a few words. */
export function outcomeWords(reason: Pick<Reason, 'outcome' | 'claim'>, names: Names): string {
  const { outcome } = reason
  switch (outcome.kind) {
    case 'comesAfter':
      return `outranked by ${clauseWords(outcome.by)}`
    case 'overriddenBy':
      return `held off by ${clauseWords(outcome.by)}`
    case 'replacedBy':
      return `yielded to ${clauseWords(outcome.by)}`
    case 'allowTooLate':
      return `protection too late: ${clauseWords(outcome.by)} comes first`
    case 'notReached':
      return `not reached, ended by ${clauseWords(outcome.by)}`
    case 'notCounted':
      return `not counted: ${notCountedWords(outcome.why)}`
    case 'excepted':
      return outcome.evidence.length ? `spared by an exception: ${evidenceWords(outcome.evidence)}` : 'spared by an exception'
    case 'monitored':
      return outcome.changes
        ? `watching, would have been ${laneWords(outcome.would.lane, outcome.would.quarantine, names)}`
        : 'watching, would have changed nothing'
    case 'waiting':
      return 'waits for release'
    default:
      return outcome.kind
  }
}

/** What a claim asks for: "send to spam". */
export function claimText(reason: Pick<Reason, 'claim'>, names: Names): string {
  return claimsWords([reason.claim], names)
}

function isErased({ reasons, decidedBy }: Pick<Decision, 'reasons' | 'decidedBy'>): boolean {
  const claim = decidedBy === null ? undefined : reasons[decidedBy]?.claim
  return claim !== undefined && 'stop' in claim && claim.stop.to === 'erase'
}

/** One sentence that says why the copy is where it is. */
export function decisionSentence(decision: Pick<Decision, 'lane' | 'quarantine' | 'reasons' | 'decidedBy'>, names: Names): string {
  const lane = laneWords(decision.lane, decision.quarantine, names)
  const lead = {
    inbox: 'Let into the inbox',
    lowPriority: 'Sent to low priority',
    spam: 'Sent to spam',
    quarantine: `Held in ${lane}`,
    bin: 'Sent to the bin',
    refused: 'Refused',
    discarded: isErased(decision) ? 'Erased' : 'Discarded',
    sent: 'Sent on',
  }[decision.lane]
  const reason = decision.decidedBy === null ? null : decision.reasons[decision.decidedBy]
  if (!reason) return decision.reasons.length ? `${lead}: nothing that matched stops it.` : `${lead}: nothing matched.`
  if (reason.clause.others) return `${lead} because of ${clauseWords(reason.clause)}.`
  const { clause } = reason
  const found = `${clause.kind === 'rule' ? 'found' : 'says'} ${evidenceWords(reason.evidence)}`
  const says = clause.entry ? `has ${entryWords(clause.entry)}` : found
  return `${lead} because ${clauseWords(clause)} ${says}.`
}

/** That sentence where a person moved the copy since: who sent it where comes first. */
export function movedSentence(
  copy: { lane: Lane, quarantineId: string | null, movedBy: string | null },
  sentence: string,
  names: Pick<Names, 'quarantines'>,
): string {
  if (copy.movedBy === null) return sentence
  return `${copy.movedBy} sent it to ${laneInSentence(copy.lane, copy.quarantineId, names)}. Before that: `
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
      return reason.matched ? 'nothing stops it' : 'nothing matched'
    case 'erased':
      return `deleted permanently by ${reason.by}`
    case 'expired':
      return `deleted permanently after ${reason.days} ${reason.days === 1 ? 'day' : 'days'} in ${reason.lane === 'bin' ? 'the bin' : 'spam'}`
    case 'clause': {
      if (others) return clauseWords({ ...reason.clause, others: true })
      const clause = clauseWords(reason.clause)
      if (reason.decided) {
        if (reason.protects) return `protected: ${clause}`
        return reason.phrases.length ? `${oneOf(reason.phrases.map(quoted), 'and', 2)}, ${clause}` : clause
      }
      if (reason.outcome === 'protected') return `${reason.clause.kind === 'list' ? 'on ' : ''}${clause}`
      return `${clause}: ${reason.outcome === 'excepted' ? 'excepted' : reason.outcome === 'monitored' ? 'monitor only' : 'not counted'}`
    }
  }
}
