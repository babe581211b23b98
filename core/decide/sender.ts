import type { Address } from '../address'
import { hasPlainFrom, type Direction, type Message } from '../message'
import { entryKindOf, type EntryText } from '../kinds'
import type { Counts, Policy } from '../policy'
import type { SenderPlace } from './types'

/** One address at which sender conditions look. */
export interface SenderAt {
  on: SenderPlace
  address: Address
}

/**
 * The addresses at which sender conditions look: From first, then Sender, then the envelope sender. Outbound they look at
 * the recipient.
 */
export function sendersOf(message: Message, recipient: Address, stage: Direction): SenderAt[] {
  const { content, attempt } = message
  if (stage === 'outbound') return [{ on: 'recipient', address: recipient }]
  return [
    ...content.from.map(address => ({ on: 'from' as const, address })),
    ...(content.sender ? [{ on: 'sender' as const, address: content.sender }] : []),
    ...(attempt.envelopeSender ? [{ on: 'envelope' as const, address: attempt.envelopeSender }] : []),
  ]
}

/** What must be known of a copy to mark its sender. */
interface SenderTest {
  message: Message
  stage: Direction
  compiled: { policy: Pick<Policy, 'trust'> }
}

/**
 * True if a sender condition that protects or exempts may rest on this message's From: exactly one From field with one
 * mailbox, and the authentication that is asked for. Our own domains always need a pass, since they are what is forged.
 */
export function senderCounts({ message, stage, compiled: { policy } }: SenderTest, asked: Counts, entry: EntryText): boolean {
  const { content, attempt } = message
  // Outbound the recipient is what is asked, and nobody forges whom a message goes to.
  if (stage === 'outbound') return true
  const from = content.from[0]
  if (!hasPlainFrom(content) || !from) return false
  const isOwn = policy.trust.ownDomains.includes(from.domain)
  const counts = isOwn ? 'verified' : asked
  if (counts === 'any') return true
  const { verdict } = attempt.authentication
  // What could not be checked may have failed.
  if (counts === 'notFailed') return verdict === 'pass' || verdict === 'none'
  // A signature passed by itself, whatever From says; but not for a sender that fails authentication, or claims an own domain.
  if (entry.kind === 'signedBy' && !isOwn) return verdict === 'pass' || verdict === 'none'
  // What names no domain cannot have passed for it.
  return entryKindOf(entry.kind).verifiable(entry.value) && verdict === 'pass'
}
