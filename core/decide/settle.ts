import { areRivals, isAlwaysDone, type Effect } from '../kinds'
import type { Claim, Hazard, Lane, PlaceClaim, Stop } from '../policy'
import type { ClauseRef, ReasonOutcome, Match, Destination, Reason } from './types'

export interface Settlement extends Destination {
  stop: Stop | null
  effects: Effect[]
  reasons: Reason[]
  decidedBy: number | null
}

/**
 * Settles what matched: walks the order once, lets each protection cover its hazards from there on, and takes the first
 * stop that is not covered. A pure function of the matches.
 * @param earlier what the copy's sender's side came to (internal mail): its reasons stand before, and of rival effects its
 * own come first
 */
export function settle(matches: readonly Match[], earlier: Settlement | null = null): Settlement {
  const own = settleStage(matches, earlier ? appliedIn(earlier.reasons) : [])
  if (!earlier) return own
  // What is stopped on the recipient's side is not delivered; what the sender's side does to it waits as well.
  const before = own.stop ? earlier.reasons.map(waiting) : earlier.reasons
  return {
    ...own,
    effects: [...appliedIn(before).map(a => a.effect), ...own.effects],
    reasons: [...before, ...own.reasons],
    decidedBy: own.decidedBy === null ? earlier.decidedBy : own.decidedBy + earlier.reasons.length,
  }
}

function settleStage(matches: readonly Match[], taken: readonly Applied[]): Settlement {
  if (!matches.length) return { lane: 'inbox', quarantine: null, place: null, stop: null, effects: [], reasons: [], decidedBy: null }
  const settled = walk(matches, null, taken)
  const clauses = new Map(matches.filter(m => m.state === 'monitor' && isLive(m)).map(m => [`${m.clause.kind} ${m.clause.id}`, m.clause]))
  for (const clause of clauses.values()) {
    const would = walk(matches, clause, taken)
    const changes = signature(would) !== signature(settled)
    const outcome: ReasonOutcome = { kind: 'monitored', would: { ...outcomeOf(would), effects: would.effects }, changes }
    for (const reason of settled.reasons)
      if (sameClause(reason.clause, clause) && reason.outcome.kind === 'monitored') reason.outcome = outcome
  }
  return settled
}

/** The hazard that a stop is, as protections name it. */
export function hazardOf(stop: Stop): Hazard {
  if (stop.to === 'spam' || stop.to === 'quarantine' || stop.to === 'refuse') return stop.to
  return 'delete'
}

/** What a stop comes to: erase and drop that nobody confirmed are the bin. */
export function effectiveStop(stop: Stop): Stop {
  return (stop.to === 'erase' || stop.to === 'discard') && !stop.confirmed ? { to: 'bin' } : stop
}

function isLive(match: Match): boolean {
  return match.lost === null && match.excepted === null
}

function sameClause(a: ClauseRef, b: ClauseRef): boolean {
  return a.kind === b.kind && a.id === b.id
}

function sameStop(a: Stop, b: Stop): boolean {
  return a.to === b.to && a.quarantine === b.quarantine
}

/** An effect that is done, and the clause that asked for it. */
interface Applied {
  effect: Effect
  clause: ClauseRef
}

function appliedIn(reasons: readonly Reason[]): Applied[] {
  return reasons.flatMap(({ claim, outcome, clause }) =>
    'effect' in claim && outcome.kind === 'applied' ? [{ effect: claim.effect, clause }] : [],
  )
}

function walk(matches: readonly Match[], tried: ClauseRef | null, taken: readonly Applied[]): Settlement {
  const reasons: Reason[] = []
  const covers = new Map<Hazard, ClauseRef>()
  const ended = new Map<string, ClauseRef>()
  let decided: { stop: Stop, reason: number, match: Match } | null = null
  const places: { claim: PlaceClaim, reason: number }[] = []
  const effects: { effect: Effect, reason: number, match: Match }[] = []

  const add = (match: Match, claim: Claim, outcome: ReasonOutcome): number =>
    reasons.push({
      clause: match.clause,
      owner: match.owner,
      mandatory: match.mandatory,
      claim,
      outcome,
      evidence: match.evidence,
      lostExceptions: match.lostExceptions,
    }) - 1

  for (const match of matches) {
    const trying = tried !== null && sameClause(match.clause, tried)
    const end = match.clause.kind === 'rule' ? (ended.get('all') ?? ended.get(match.owner)) : undefined
    if (match.excepted) {
      add(match, mainClaim(match), { kind: 'excepted', evidence: match.excepted })
      continue
    }
    if (match.lost) {
      add(match, mainClaim(match), { kind: 'notCounted', why: match.lost })
      continue
    }
    if (end) {
      add(match, mainClaim(match), { kind: 'notReached', by: end })
      continue
    }
    if (match.state === 'monitor' && !trying) {
      add(match, mainClaim(match), {
        kind: 'monitored',
        would: { lane: 'inbox', quarantine: null, place: null, effects: [] },
        changes: false,
      })
      continue
    }
    for (const claim of match.claims) {
      if ('stop' in claim) settleStop(match, claim)
      else if ('protect' in claim) settleProtect(match, claim)
      else if ('place' in claim) places.push({ claim: claim.place, reason: add(match, claim, { kind: 'waiting' }) })
      else effects.push({ effect: claim.effect, reason: add(match, claim, { kind: 'notApplied' }), match })
    }
    if (match.end && match.state === 'enabled') ended.set(match.end === 'all' ? 'all' : match.owner, match.clause)
  }

  function settleStop(match: Match, claim: { stop: Stop }) {
    const stop = effectiveStop(claim.stop)
    const cover = covers.get(hazardOf(stop))
    if (cover) {
      add(match, claim, { kind: 'overriddenBy', by: cover })
    }
    else if (!decided) {
      decided = { stop, reason: add(match, claim, { kind: 'decided' }), match }
    }
    else if ((decided.stop.to === 'erase' || decided.stop.to === 'discard') && stop.to === 'quarantine') {
      // Evidence is kept.
      reasons[decided.reason]!.outcome = { kind: 'replacedBy', by: match.clause }
      decided = { stop, reason: add(match, claim, { kind: 'decided' }), match }
    }
    else {
      add(match, claim, sameStop(decided.stop, stop) ? { kind: 'sameResult' } : { kind: 'comesAfter', by: decided.match.clause })
    }
  }

  function settleProtect(match: Match, claim: { protect: Hazard[] }) {
    const late = decided !== null && claim.protect.includes(hazardOf(decided.stop))
    add(match, claim, late ? { kind: 'allowTooLate', by: decided!.match.clause } : { kind: 'protected' })
    for (const hazard of claim.protect) if (!covers.has(hazard)) covers.set(hazard, match.clause)
  }

  // TypeScript does not see the assignments made inside the functions above.
  const final = decided as { stop: Stop, reason: number, match: Match } | null
  const [first, ...laterPlaces] = places
  if (first && !final) reasons[first.reason]!.outcome = { kind: 'placed' }
  for (const later of laterPlaces) reasons[later.reason]!.outcome = { kind: 'comesAfter', by: reasons[first!.reason]!.clause }
  const place = final ? null : (first?.claim ?? null)
  return {
    ...laneOf(final?.stop ?? null, place),
    place,
    stop: final?.stop ?? null,
    effects: settleEffects(effects, final, reasons, taken),
    reasons,
    decidedBy: final?.reason ?? (first ? first.reason : protectionThatMattered(reasons)),
  }
}

// Where a protection held a stop off, it is what decided that the copy is in the inbox.
function protectionThatMattered(reasons: readonly Reason[]): number | null {
  const heldOff = reasons.find(r => r.outcome.kind === 'overriddenBy')
  if (heldOff?.outcome.kind !== 'overriddenBy') return null
  const { by } = heldOff.outcome
  const index = reasons.findIndex(r => 'protect' in r.claim && sameClause(r.clause, by))
  return index < 0 ? null : index
}

function settleEffects(
  effects: { effect: Effect, reason: number, match: Match }[],
  final: { stop: Stop, match: Match } | null,
  reasons: Reason[],
  taken: readonly Applied[],
): Effect[] {
  const done: Applied[] = []
  for (const { effect, reason, match } of effects) {
    const always = isAlwaysDone(effect)
    const stopReason = reasons.find(r => 'stop' in r.claim && sameClause(r.clause, match.clause))
    const ownStopStands = stopReason?.outcome.kind === 'decided' || stopReason?.outcome.kind === 'sameResult'
    const applies = always || (stopReason ? ownStopStands : final === null)
    if (!applies) {
      reasons[reason]!.outcome = { kind: stopReason ? 'notApplied' : 'waiting' }
      continue
    }
    const rival = [...taken, ...done].find(d => areRivals(d.effect, effect))
    if (rival) {
      reasons[reason]!.outcome = { kind: 'comesAfter', by: rival.clause }
      continue
    }
    reasons[reason]!.outcome = { kind: 'applied' }
    done.push({ effect, clause: match.clause })
  }
  return done.map(d => d.effect)
}

function waiting(reason: Reason): Reason {
  return reason.outcome.kind === 'applied' && 'effect' in reason.claim && !isAlwaysDone(reason.claim.effect)
    ? { ...reason, outcome: { kind: 'waiting' } }
    : reason
}

function laneOf(stop: Stop | null, place: PlaceClaim | null): { lane: Lane, quarantine: string | null } {
  switch (stop?.to) {
    case undefined:
      return { lane: place?.to === 'lowPriority' ? 'lowPriority' : 'inbox', quarantine: null }
    case 'quarantine':
      return { lane: 'quarantine', quarantine: stop!.quarantine ?? null }
    case 'refuse':
      return { lane: 'refused', quarantine: null }
    case 'erase':
    case 'discard':
      return { lane: 'discarded', quarantine: null }
    case 'spam':
    case 'bin':
      return { lane: stop!.to as 'spam' | 'bin', quarantine: null }
  }
}

/** The claim for which a match is named where it makes none. */
function mainClaim(match: Match): Claim {
  const by = (kind: string) => match.claims.find(c => kind in c)
  return by('stop') ?? by('protect') ?? by('place') ?? match.claims[0]!
}

function outcomeOf(s: Settlement): Destination {
  return { lane: s.lane, quarantine: s.quarantine, place: s.place }
}

function signature(s: Settlement): string {
  return JSON.stringify([s.lane, s.quarantine, s.place, s.stop?.to ?? null, s.effects])
}
