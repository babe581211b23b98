import type { Verdict } from '#core'
import type { Lane } from '#core/policy'
import type { GlossaryTerm } from './glossary'

/** What trusted relays found about a sender, in a few words. */
export const VERDICTS: Record<Verdict, string> = { pass: 'verified', fail: 'authentication failed', none: 'sender not verified', temperror: 'sender could not be verified' }

/** Each location with its term in the glossary. */
export const LANE_TERMS: Record<Lane, GlossaryTerm> = {
  inbox: 'location',
  lowPriority: 'lowPriority',
  spam: 'location',
  quarantine: 'quarantine',
  bin: 'location',
  refused: 'refused',
  discarded: 'discarded',
  sent: 'location',
}
