export { causesOf, isAsItShould, markedAs, type Caused, type Mistake, type Should } from './causes'
export { candidatesFor, type Making } from './candidates'
export {
  byKind,
  priceOf,
  rankFixes,
  rankWords,
  ratesOf,
  senderMarksOf,
  type Price,
  type Ranked,
  type Rates,
  type SenderMarks,
} from './rank'
export { FIX_KINDS, type Candidate, type FixKind } from './types'
export { coverOf, type Effect } from './cover'
export { together } from './together'
export { coverOfFixes, fixesFor, type ArchivedCopy, type Fix, type Followed } from './weigh'
export type { Company } from './ways'
