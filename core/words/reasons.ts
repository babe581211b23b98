import type { ClauseRef, Reason, Decision } from '../decide'
import { claimsWords } from './sentences'
import { entryWords, oneOf, quoted } from '../kinds'
import { evidenceWords, laneInSentence, laneWords, notCountedWords, type Names } from './names'
import type { Lane } from '../policy'

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
    'inbox': 'Let into the inbox',
    'lowPriority': 'Sent to low priority',
    'spam': 'Sent to spam',
    'quarantine': `Held in ${lane}`,
    'bin': 'Sent to the bin',
    'refused': 'Refused',
    'discarded': isErased(decision) ? 'Erased' : 'Discarded',
    'sent': 'Sent on',
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

/** The reason that a ledger tells of a ruling: what decided, else what protected, else what nearly did something. */
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

/** That reason in a few words. */
export function shortReason(decision: Pick<Decision, 'reasons' | 'decidedBy'>): string {
  const main = mainReason(decision)
  if (!main) return decision.reasons.length ? 'nothing stops it' : 'nothing matched'
  const clause = clauseWords(main.clause)
  if (main === decision.reasons[decision.decidedBy ?? -1]) {
    const phrases = [...new Set(main.evidence.flatMap(e => (e.kind === 'phrase' ? [quoted(e.phrase)] : [])))]
    if ('protect' in main.claim) return `protected: ${clause}`
    return phrases.length ? `${oneOf(phrases, 'and', 2)}, ${clause}` : clause
  }
  if (main.outcome.kind === 'protected') return `${main.clause.kind === 'list' ? 'on ' : ''}${clause}`
  const kind = main.outcome.kind
  return `${clause}: ${kind === 'excepted' || kind === 'monitored' ? kind : 'not counted'}`
}
