import type { Message } from '../message'
import { compilePolicy, readerOf, type CompiledPolicy, type Policy } from '../policy'
import { IndexedPolicy } from './indexed'
import { matchesInOrder } from './match'
import { plainSubject } from './plain'
import { settle } from './settle'
import type { Context, Lane, Match, Ruling } from './types'

/**
 * Decides the lane of one copy. Pure and deterministic: the same inputs give the same ruling, byte for byte, by index or
 * without.
 * @param recipient the address of the copy's reader
 * @param policy with indexes; or compiled, or as it stands, and then it is read clause by clause
 */
export function decide(message: Message, recipient: string, policy: IndexedPolicy | CompiledPolicy | Policy, context: Context): Ruling {
  const compiled = policy instanceof IndexedPolicy ? policy.compiled : 'policy' in policy ? policy : compilePolicy(policy)
  const { address, tiers } = readerOf(compiled, recipient)
  const { subject, candidates } = policy instanceof IndexedPolicy ? policy.subject(message, address, context.now) : plainSubject(message, address, compiled, context.now)
  const outbound = message.attempt.direction === 'outbound'
  const matches = matchesInOrder(subject, outbound ? readerOf(compiled, senderOf(message)).tiers : tiers, candidates)
  const settled = settle(context.release ? released(matches, context.release) : matches)
  return {
    recipient: address.key,
    policyVersion: compiled.policy.version,
    lane: outbound ? outboundLane(settled.lane) : settled.lane,
    quarantine: settled.quarantine,
    place: settled.place,
    stop: settled.stop,
    effects: settled.effects,
    reasons: settled.reasons,
    decidedBy: settled.decidedBy,
  }
}

// Outbound a copy is sent, held or refused: what would go elsewhere is held back by refusing it, so that its writer knows.
function outboundLane(lane: Lane): Lane {
  if (lane === 'inbox' || lane === 'slow lane') return 'sent'
  return lane === 'quarantine' ? 'quarantine' : 'refused'
}

/** Who sends an outbound message: whoever signed in, else the envelope sender, else From. */
function senderOf({ content, attempt }: Message): string {
  return attempt.envelope.user ?? attempt.envelopeSender?.key ?? content.from[0]?.key ?? ''
}

/** Without the stops to the quarantine from which the copy is released, and past the reader's own places. */
function released(matches: Match[], { quarantine, ownPlaces }: NonNullable<Context['release']>): Match[] {
  return matches.map(m => ({
    ...m,
    claims: m.claims.filter(c => !('stop' in c && c.stop.to === 'quarantine' && c.stop.quarantine === quarantine) && !(!ownPlaces && 'place' in c && m.owner.startsWith('person:'))),
  })).filter(m => m.claims.length)
}
