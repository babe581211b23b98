import type { Direction } from '../message'
import type { CheckContext, Finding } from './types'

/** What is found of a rule or an assignment for mail of a direction in which none is accepted. */
export function noSuchMail(direction: Direction = 'inbound', { accepts }: CheckContext): Pick<Finding, 'kind' | 'evidence' | 'fix'> | null {
  if (direction === 'inbound' || !accepts || accepts[direction]) return null
  return direction === 'outbound'
    ? {
        kind: 'no such mail accepted',
        evidence: 'it applies to outbound mail, and none is accepted: mail is accepted only for addresses of users',
        fix: 'Apply it to inbound mail, or disable it.',
      }
    : {
        kind: 'no such mail accepted',
        evidence: 'it applies to internal mail, and no mail counts as internal: no own network is configured',
        fix: 'Add your own networks in Settings, or disable it.',
      }
}
