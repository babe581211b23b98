export { checkPolicy, checkText } from './findings'
export { phraseHitKey } from './rules'
export type { CheckContext, Finding, FindingKind } from './types'
