import { bindings, lists, phraseSets, quarantines, rules, thresholds } from '../db/schema'

/** Where the things of a policy are kept, by what a change calls them. */
export const TABLES = {
  'list': lists,
  'use': bindings,
  'rule': rules,
  'phrase set': phraseSets,
  'quarantine': quarantines,
  'threshold': thresholds,
} as const
