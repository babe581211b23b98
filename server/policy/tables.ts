import { assignments, lists, phraseSets, quarantines, rules, thresholds } from '../db/schema'

/** Where the things of a policy are kept, by what a change calls them. */
export const TABLES = {
  list: lists,
  assignment: assignments,
  rule: rules,
  phraseSet: phraseSets,
  quarantine: quarantines,
  threshold: thresholds,
} as const
