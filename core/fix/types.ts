import type { PolicyChange } from '../change'
import type { Policy } from '../policy'

/** What a fix does, the narrowest first: of two that do as much harm, the earlier is offered first. */
export const FIX_KINDS = [
  'near',
  'other place',
  'whole words',
  'exception: address',
  'exception: mailingList',
  'exception: recipient',
  'exception: domain',
  'entry narrower',
  'entry out',
  'phrase out',
  'exception out',
  'sender: address',
  'sender: mailingList',
  'sender: domain',
  'new phrase',
  'disabled',
] as const
export type FixKind = (typeof FIX_KINDS)[number]

/** A change that may put copies right. */
export interface Candidate {
  kind: FixKind
  /** What it does, as a command: “Remove “handling fee” from rule “Fee demands””. */
  sentence: string
  changes: PolicyChange[]
  /**
   * Nothing verified the sender of a message that it is made from, or it lets in all mail to a recipient: it opens the way for anybody's
   * mail, is never offered first, and says so.
   */
  opens?: 'notVerified' | 'recipient'
  /** A domain of a public mail provider that it allows or blocks as a whole: it is never offered first, and says so. */
  publicProvider?: string
  /** It blocks senders of whom each was used once or twice: the next message comes from another one. */
  usedUp?: boolean
}

/** What must be known of a policy; its lists may come without entries. */
export type FixablePolicy = Pick<Policy, 'lists' | 'assignments' | 'rules' | 'phraseSets' | 'quarantines'>
