import { makeAddress } from '../address'
import type { Message } from '../message'
import { compilePolicy, type CompiledPolicy, type Policy } from '../policy'
import { newSubject } from './conditions'
import { matchesInOrder } from './match'
import { settle } from './settle'
import type { Context, Ruling } from './types'

/**
 * Decides the lane of one copy. Pure and deterministic: the same inputs give the same ruling, byte for byte.
 * @param recipient the address of the copy's reader
 * @param policy as compiled, or as it stands (then it is compiled for this one call)
 */
export function decide(message: Message, recipient: string, policy: CompiledPolicy | Policy, context: Context): Ruling {
  const compiled = 'phraseKeys' in policy ? policy : compilePolicy(policy)
  const address = makeAddress(recipient)
  const settled = settle(matchesInOrder(newSubject(message, compiled, context.now), address))
  return {
    recipient: address.key,
    policyVersion: compiled.policy.version,
    lane: settled.lane,
    quarantine: settled.quarantine,
    place: settled.place,
    stop: settled.stop,
    effects: settled.effects,
    reasons: settled.reasons,
    decidedBy: settled.decidedBy,
  }
}
