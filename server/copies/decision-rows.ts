import { effectsOnCopy, type Content, type FinalDecision } from '#core'
import { shortReasonOf } from '#core/words'
import { cleanJson, cleanText, indexKey } from '../platform/clean-text'

/** What of a copy follows from its decision. */
export function stateByDecision(decision: FinalDecision, content: Pick<Content, 'subject' | 'important'>) {
  const subject = decision.stop?.to === 'discard' && decision.lane === 'discarded' ? '' : content.subject
  const done = effectsOnCopy(decision.effects, { tags: [], important: content.important, subject })
  return {
    lane: decision.lane,
    quarantineId: decision.quarantine,
    erased: decision.lane === 'discarded' && decision.stop?.to === 'erase',
    folder: decision.place?.folder ?? null,
    filed: decision.place?.to === 'filed',
    // The message was accepted for another recipient, so this copy could not be refused any more.
    notRefused: decision.decidedLane === 'refused' && decision.lane !== 'refused',
    tags: done.tags.map(cleanText),
    important: done.important,
    subject: indexKey(done.subject),
    reason: cleanJson(shortReasonOf(decision)),
  }
}

/** A decision as it is stored. @param at an ISO 8601 instant */
export function decisionRow(decision: FinalDecision, at: string) {
  return {
    policyVersion: decision.policyVersion,
    decidedLane: decision.decidedLane,
    finalLane: decision.lane,
    quarantineId: decision.quarantine,
    effects: cleanJson(decision.effects),
    reasons: cleanJson(decision.reasons),
    decidedBy: decision.decidedBy,
    at,
  }
}

/** Its claims, for finding what a clause touched. */
export function claimsOf({ reasons }: FinalDecision) {
  return reasons.map(r => ({
    clauseKind: r.clause.kind,
    clauseId: r.clause.id,
    listId: r.clause.list ?? null,
    entryId: r.clause.entry?.id ?? null,
    outcome: r.outcome.kind,
  }))
}
