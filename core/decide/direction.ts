import type { Address } from '../address'
import type { Attempt, Direction, Trust } from '../message'

/**
 * The direction of one copy. One message of ours may go to a colleague and to a stranger: the colleague's copy is internal,
 * the stranger's outbound. What did not come from our own people is inbound, whomever it is for.
 */
export function directionOf(attempt: Pick<Attempt, 'direction'>, recipient: Address, trust: Pick<Trust, 'ownDomains'>): Direction {
  if (attempt.direction === 'inbound') return 'inbound'
  return trust.ownDomains.includes(recipient.domain) ? 'internal' : 'outbound'
}

/** The decisions through which a copy goes: internal mail first leaves its sender, and then reaches its recipient. */
export function stagesOf(direction: Direction): Direction[] {
  return direction === 'internal' ? ['outbound', 'internal'] : [direction]
}
