import type { PolicyChange } from '../change'
import type { Policy } from '../policy'

/** What a mend does, the narrowest first: of two that do as much harm, the earlier is offered first. */
export const MEND_KINDS = [
  'company',
  'other place',
  'whole words',
  'exception: address',
  'exception: mailing list',
  'exception: reader',
  'exception: domain',
  'entry narrower',
  'entry out',
  'phrase out',
  'exception out',
  'sender: address',
  'sender: mailing list',
  'sender: domain',
  'new phrase',
  'clause off',
] as const
export type MendKind = (typeof MEND_KINDS)[number]

/** A change that may put copies right. */
export interface Candidate {
  kind: MendKind
  /** What it does, as a command: “Take “handling fee” out of Fee demands”. */
  sentence: string
  changes: PolicyChange[]
}

/** What must be known of a policy; its lists may come without entries. */
export type Known = Pick<Policy, 'lists' | 'bindings' | 'rules' | 'phraseSets' | 'quarantines'>
