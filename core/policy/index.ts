export * from './types'
export * from './owners'
export { instant, isOddText, isUsualTime, Joi } from './joi'
export {
  canonicalEntry,
  readEntryLine,
  entryCatches,
  senderKeys,
  senderText,
  matchesWildcard,
  hasOpenDomain,
  specificity,
  type EntryText,
  type EntryError,
  type EntrySubject,
} from './entries'
export {
  readPolicy,
  danglingReferences,
  bindingSchema,
  entrySchema,
  listSchema,
  phraseSetSchema,
  ruleSchema,
  policySchema,
  type PolicyProblem,
} from './schema'
export { compilePolicy, personOf, readerOf, tierKey, isRaised, type CompiledPolicy, type CompiledRule, type Reader } from './compile'
export { type Fact, type Look, type LookItem, type Node } from './tree'
export { compileExpression, requiredLiteral, type Expression } from './expressions'
export { EntryTable, EntryTableBuilder, type EntryTableData } from './entry-table'
export { valueKey } from './value-key'
