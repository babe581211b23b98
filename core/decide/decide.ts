import type { Direction, Message } from '../message'
import { compilePolicy, isDelivered, isPersonal, recipientOf, type CompiledPolicy, type Lane, type Policy } from '../policy'
import type { Copy, Subject } from './conditions'
import { directionOf, stagesOf } from './direction'
import { matchesInOrder, type Candidates } from './match'
import { plainSubject } from './plain'
import { lastMatches } from './score'
import { settle, type Settlement } from './settle'
import type { ClauseRef, Context, Match, Decision } from './types'

/** A policy that looks a copy up by indexes of its own. */
export interface Looking {
  compiled: CompiledPolicy
  /** What is found for a copy, and which clauses that wakes. */
  subject(copy: Copy): { subject: Subject, candidates: Candidates }
}

function isLooking(policy: Looking | CompiledPolicy | Policy): policy is Looking {
  return 'subject' in policy
}

/**
 * Decides the lane of one copy. Pure and deterministic: the same inputs give the same decision, byte for byte, by index or
 * without.
 * @param recipient the address of the copy's reader
 * @param policy with indexes; or compiled, or as it stands, and then it is read clause by clause
 */
export function decide(message: Message, recipient: string, policy: Looking | CompiledPolicy | Policy, context: Context): Decision {
  return settling(message, recipient, policy, context)([])
}

/** Decides a copy as if some clauses were not there. */
export type Settling = (without: readonly Pick<ClauseRef, 'kind' | 'id'>[]) => Decision

/**
 * Matches one copy, once; what comes back settles it, as often as it is asked, without any clauses that are named. Settling is a
 * function of what matched alone, so that asking costs next to nothing.
 */
export function settling(message: Message, recipient: string, policy: Looking | CompiledPolicy | Policy, context: Context): Settling {
  const compiled = isLooking(policy) ? policy.compiled : 'policy' in policy ? policy : compilePolicy(policy)
  const { address, person } = recipientOf(compiled, recipient)
  const direction = directionOf(message.attempt, address, compiled.policy.trust)
  const stages = stagesOf(direction)
  const matched: Match[][] = []
  const matchesOf = (i: number) => (matched[i] ??= stageMatches(
    { message, recipient: address, direction, stage: stages[i]!, now: context.now },
    { recipient, context },
    isLooking(policy) ? policy : compiled,
  ))
  return (without) => {
    const gone = new Set(without.map(clauseKey))
    let settled: Settlement | null = null
    for (const [i, stage] of stages.entries()) {
      const left = gone.size ? matchesOf(i).filter(m => !gone.has(clauseKey(m.clause))) : matchesOf(i)
      settled = settle(left, settled)
      if (stage === 'outbound') settled = { ...settled, lane: outboundLane(settled.lane, direction) }
      // What its sender's side holds back does not come before its recipient's.
      if (settled.stop) break
    }
    const { lane, quarantine, place, stop, effects, reasons, decidedBy } = settled!
    const { version } = compiled.policy
    return {
      recipient: address.key,
      personId: person,
      direction,
      policyVersion: version,
      lane,
      quarantine,
      place,
      stop,
      effects,
      reasons,
      decidedBy,
    }
  }
}

/** A clause by its kind and id. */
export function clauseKey({ kind, id }: Pick<ClauseRef, 'kind' | 'id'>): string {
  return `${kind} ${id}`
}

function stageMatches(
  copy: Copy,
  { recipient, context }: { /** As it was written. */ recipient: string, context: Context },
  policy: Looking | CompiledPolicy,
): Match[] {
  const compiled = isLooking(policy) ? policy.compiled : policy
  const { subject, candidates } = isLooking(policy) ? policy.subject(copy) : plainSubject(copy, policy)
  const { tiers } = recipientOf(compiled, copy.stage === 'outbound' ? senderOf(copy.message) : recipient)
  const matches = [...matchesInOrder(subject, tiers, candidates), ...lastMatches(compiled, copy, tiers, context)]
  return context.release ? released(matches, context.release) : matches
}

// Outbound a copy is sent, held or refused: what would go elsewhere is held back by refusing it, so that its writer knows.
function outboundLane(lane: Lane, direction: Direction): Lane {
  if (isDelivered(lane)) return direction === 'outbound' ? 'sent' : 'inbox'
  return lane === 'quarantine' ? 'quarantine' : 'refused'
}

/** Who sends an outbound message: whoever signed in, else the envelope sender, else From. */
function senderOf({ content, attempt }: Message): string {
  return attempt.envelope.user ?? attempt.envelopeSender?.key ?? content.from[0]?.key ?? ''
}

/** Without the stops to the quarantines from which the copy was released, and past the recipient's own places. */
function released(matches: Match[], { quarantines, ownPlaces }: NonNullable<Context['release']>): Match[] {
  return matches
    .map(m => ({
      ...m,
      claims: m.claims.filter(
        c =>
          !('stop' in c && c.stop.to === 'quarantine' && quarantines.includes(c.stop.quarantine ?? '')) &&
          !(!ownPlaces && 'place' in c && isPersonal(m.owner)),
      ),
    }))
    .filter(m => m.claims.length)
}
