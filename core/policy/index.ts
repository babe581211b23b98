export * from './types'
export * from './owners'
export { instant, isOddText, isUsualTime, Joi } from './joi'
export {
  readPolicy,
  bindingSchema,
  entryPutSchema,
  entryRefSchema,
  idSchema,
  ownerSchema,
  quarantineSchema,
  thresholdSchema,
  markSchema,
  entrySchema,
  listSchema,
  phraseSetSchema,
  ruleSchema,
  policySchema,
} from './schema'
export {
  compilePolicy,
  peopleOf,
  readerOf,
  tierKey,
  isRaised,
  type CompiledPolicy,
  type CompiledRule,
  type Reader,
} from './compile'
export { SPARING, STOPPING, type Look, type LookItem, type Node } from './tree'
export { compileExpression, requiredLiteral, type Expression } from './expressions'
export { valueKey } from './value-key'
export { danglingReferences, rulesReferences, thresholdsReferences, usesReferences, type PolicyProblem, type Reference } from './references'
export { leavesOf, phrasesWithout, replacedLeaves, withoutPhrases } from './edit'
