export * from './types'
export * from './owners'
export { instant, isOddText, isUsualTime, Joi } from './joi'
export {
  readPolicy,
  danglingReferences,
  bindingSchema,
  markSchema,
  entrySchema,
  listSchema,
  phraseSetSchema,
  ruleSchema,
  policySchema,
  type PolicyProblem,
} from './schema'
export { compilePolicy, personOf, readerOf, tierKey, isRaised, type CompiledPolicy, type CompiledRule, type Reader } from './compile'
export { type Look, type LookItem, type Node } from './tree'
export { compileExpression, requiredLiteral, type Expression } from './expressions'
export { valueKey } from './value-key'
