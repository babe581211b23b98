export { checkPolicy, checkText } from './findings'
export type { CheckContext, Finding, FindingKind } from './types'
