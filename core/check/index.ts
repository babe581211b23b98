export { checkPolicy, checkText, type CheckContext, type Finding, type FindingKind } from './findings'
