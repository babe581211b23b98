import { isPersonal, marksOnCopy, type Content, type DoorRuling, type Owner } from '#core'
import { shortReason, toldReason } from '#core/words'
import { cleanJson, cleanText, indexKey } from '../platform/clean-text'

/** What of a copy follows from its ruling. */
export function stateByRuling(ruling: DoorRuling, content: Pick<Content, 'subject' | 'important'>) {
  const subject = ruling.stop?.to === 'drop' && ruling.lane === 'dropped' ? '' : content.subject
  const marks = marksOnCopy(ruling.effects, { tags: [], important: content.important, subject })
  return {
    lane: ruling.lane,
    quarantineId: ruling.quarantine,
    erased: ruling.lane === 'dropped' && ruling.stop?.to === 'erase',
    folder: ruling.place?.to === 'filed' ? 'filed' : (ruling.place?.folder ?? null),
    tags: [
      ...marks.tags.map(cleanText),
      ...(ruling.decidedLane === 'refused' && ruling.lane !== 'refused' ? ['not refused: others took it'] : []),
    ],
    important: marks.important,
    subject: indexKey(marks.subject),
    decided: cleanText(shortReason(ruling)).slice(0, 300),
    decidedOwner: ownOf(toldReason(ruling)?.owner),
  }
}

// Only of a person's own clause it is asked whose it is.
function ownOf(owner: Owner | undefined): string | null {
  return owner !== undefined && isPersonal(owner) ? owner : null
}

/** A ruling as it is stored. @param at an ISO 8601 instant */
export function rulingRow(ruling: DoorRuling, at: string) {
  return {
    policyVersion: ruling.policyVersion,
    decidedLane: ruling.decidedLane,
    finalLane: ruling.lane,
    quarantineId: ruling.quarantine,
    effects: cleanJson(ruling.effects),
    reasons: cleanJson(ruling.reasons),
    decidedBy: ruling.decidedBy,
    at,
  }
}

/** Its claims, for finding what a clause touched. */
export function claimsOf({ reasons }: DoorRuling) {
  return reasons.map(r => ({
    clauseKind: r.clause.kind,
    clauseId: r.clause.id,
    listId: r.clause.list ?? null,
    entryId: r.clause.entry?.id ?? null,
    fate: r.fate.kind,
  }))
}
