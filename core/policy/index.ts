export * from './types'
export * from './owners'
export { instant, isOddText, isUsualTime, Joi } from './joi'
export {
  readPolicy,
  assignmentSchema,
  entryPutSchema,
  entryRefSchema,
  idSchema,
  ownerSchema,
  quarantineSchema,
  thresholdSchema,
  upstreamVerdictSchema,
  entrySchema,
  listSchema,
  phraseSetSchema,
  ruleSchema,
  policySchema,
} from './schema'
export {
  compilePolicy,
  peopleOf,
  recipientOf,
  tierKey,
  isOverriding,
  type CompiledPolicy,
  type CompiledRule,
  type KnownRecipient,
} from './compile'
export { EXEMPTING, STOPPING, type Look, type LookItem, type Node } from './tree'
export { compileExpression, requiredLiteral, type Expression } from './expressions'
export { valueKey } from './value-key'
export {
  danglingReferences,
  rulesReferences,
  thresholdsReferences,
  assignmentReferences,
  type PolicyProblem,
  type Reference,
} from './references'
export { fromVersion1 } from './version-1'
export { leavesOf, phrasesWithout, replacedLeaves, withoutPhrases } from './edit'
