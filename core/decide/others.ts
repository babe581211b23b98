import isSame from 'fast-deep-equal'
import { isPersonal, type Claim, type Owner, type Stop } from '../policy'
import type { ClauseRef, ReasonOutcome, Reason, Decision } from './types'

/**
 * The reasons of a decision as somebody else than its recipient may see them: that a colleague's own clause matched and what it did,
 * never its name, its words, or what in the message they found.
 * @param viewer whose own clauses stay as they are
 */
export function reasonsFor(viewer: Owner, reasons: readonly Reason[]): Reason[] {
  const hidden = new Map<string, ClauseRef>()
  for (const { clause } of reasons.filter(r => isOthers(viewer, r.owner))) {
    // Numbered, so that two of them can still be told apart.
    if (!hidden.has(keyOf(clause)))
      hidden.set(keyOf(clause), { kind: clause.kind, id: `colleague-${hidden.size + 1}`, name: '', others: true })
  }
  if (!hidden.size) return [...reasons]
  const shown = (clause: ClauseRef) => hidden.get(keyOf(clause)) ?? clause
  return reasons.map((reason) => {
    const outcome = withoutOutcome('by' in reason.outcome ? { ...reason.outcome, by: shown(reason.outcome.by) } : reason.outcome)
    if (!isOthers(viewer, reason.owner)) return { ...reason, outcome }
    return {
      ...reason,
      clause: shown(reason.clause),
      claim: bare(reason.claim),
      outcome: withoutEvidence(outcome),
      evidence: [],
      lostExceptions: [],
    }
  })
}

/** The same for a whole decision: what a colleague's own clauses put on the copy, where they place it, what they reply. */
export function decisionFor<R extends Pick<Decision, 'reasons' | 'decidedBy' | 'effects' | 'place' | 'stop'>>(
  viewer: Owner,
  decision: R,
): R {
  const { reasons, decidedBy, effects, place, stop } = decision
  const open = reasons.filter(r => !isOthers(viewer, r.owner))
  if (open.length === reasons.length) return decision
  const openly = (claim: (c: Claim) => unknown, value: unknown) => open.some(r => isSame(claim(r.claim), value))
  return {
    ...decision,
    reasons: reasonsFor(viewer, reasons),
    effects: effects.filter(e => openly(c => ('effect' in c ? c.effect : null), e)),
    place: place && !openly(c => ('place' in c ? c.place : null), place) ? { to: place.to } : place,
    stop: stop && decidedBy !== null && isOthers(viewer, reasons[decidedBy]!.owner) ? bareStop(stop) : stop,
  }
}

/** True of a clause that is one person's own, and not the viewer's. */
export function isOthers(viewer: Owner, owner: Owner): boolean {
  return isPersonal(owner) && owner !== viewer
}

function keyOf({ kind, id }: ClauseRef): string {
  return `${kind} ${id}`
}

// A folder's name, a tag or a reply are words of theirs too.
function bare(claim: Claim): Claim {
  if ('place' in claim) return { place: { to: claim.place.to } }
  if ('effect' in claim) return { effect: { kind: claim.effect.kind } }
  if ('stop' in claim) return { stop: bareStop(claim.stop) }
  return claim
}

function bareStop({ to, quarantine }: Stop): Stop {
  return { to, ...(quarantine === undefined ? {} : { quarantine }) }
}

function withoutEvidence(outcome: ReasonOutcome): ReasonOutcome {
  return outcome.kind === 'excepted' ? { kind: 'excepted', evidence: [] } : outcome
}

// What would have become of the copy is the work of all clauses together, a colleague's folder and tags among it.
function withoutOutcome(outcome: ReasonOutcome): ReasonOutcome {
  return outcome.kind === 'monitored' ? { ...outcome, would: { ...outcome.would, place: null, effects: [] } } : outcome
}
