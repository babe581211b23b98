import type { Address } from '../address'
import type { Message } from '../message'
import type { Counts, Owner, Policy, EntryKind } from '../policy'
import type { SenderPlace } from './types'

/** The addresses at which stopping sender conditions look: From first, then Sender, then the envelope sender. */
export function sendersOf(message: Message): { on: SenderPlace, address: Address }[] {
  const { content, attempt } = message
  return [
    ...content.from.map(address => ({ on: 'from' as const, address })),
    ...(content.sender ? [{ on: 'sender' as const, address: content.sender }] : []),
    ...(attempt.envelopeSender ? [{ on: 'envelope' as const, address: attempt.envelopeSender }] : []),
  ]
}

/** On what a sparing or protecting sender condition counts where nothing is said. */
export function defaultCounts(owner: Owner): Counts {
  return owner.startsWith('person:') ? 'not fail' : 'pass'
}

/**
 * True if a sender condition that protects or spares may rest on this message's From: exactly one From field with one
 * mailbox, and the authentication that is asked for. Our own domains always need a pass, since they are what is forged.
 */
export function senderCounts(message: Message, policy: Pick<Policy, 'trust'>, asked: Counts | undefined, owner: Owner, kind: EntryKind): boolean {
  const { content, attempt } = message
  const from = content.from[0]
  if (content.fromFields !== 1 || content.from.length !== 1 || !from) return false
  const counts = policy.trust.ownDomains.includes(from.domain) ? 'pass' : asked ?? defaultCounts(owner)
  if (counts === 'any') return true
  if (counts === 'not fail') return attempt.authentication.verdict !== 'fail'
  // "Everyone" names no sender whose domain could have passed.
  return kind !== 'everyone' && attempt.authentication.verdict === 'pass'
}
