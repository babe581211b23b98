import type { Verdict } from '#core'
import type { Lane } from '#core/policy'

/** Words of the trade and of ours, each explained in a sentence or two where it stands. */
export const WORD_HELPS = {
  'lane': 'Where a copy ends: inbox, slow lane, spam, a quarantine, the bin; or refused or dropped at the door, of which only the record '
    + 'is here.',
  'verified': 'A relay that we believe found that the message really comes from the domain in its From (DMARC, or DKIM or SPF aligned '
    + 'with it). A From alone is easily forged.',
  'mandatory': 'Set by an administrator: it comes before everybody’s own lists and rules, so nobody can soften it for themselves. Anything '
    + 'else of the organisation comes after them.',
  'in force': 'The lists and rules by which mail is decided now. Every change of them is a version, and each message says under which it '
    + 'was decided.',
  'put in force': 'From the next message on. What lies here already stays where it is. It can be taken back as long as nobody changed '
    + 'the same thing since.',
  'monitor': 'It records what it would have done, and does nothing. Look at its record, then let it act.',
} as const

/** What our relays found of a sender, in a few words. */
export const VERDICTS: Record<Verdict, string> = { pass: 'verified', fail: 'authentication failed', none: 'sender not verified' }

export const LANE_HELPS: Record<Lane, string> = {
  inbox: 'It came to its reader.',
  lowPriority: 'Wanted but unhurried mail, such as newsletters: delivered, but out of the way.',
  spam: 'Kept from the inbox as unwanted. Its reader can look into it and send it back.',
  quarantine: 'Held until a reviewer looks at it: only reviewers and administrators release it.',
  bin: 'Thrown away, but it can be fetched back as long as it lies there.',
  refused: 'Never accepted: the sending server was told so, and nothing but this record is here.',
  discarded: 'Thrown away by decision: the sending server believes that it arrived, and nothing but this record is here.',
  sent: 'It went on to where it was addressed.',
}
