import {
  defaultCounts,
  departmentIn,
  groupMembers,
  isPersonal,
  ruleProtects,
  ruleStops,
  type Condition,
  type Owner,
  type Rule,
} from '#core/policy'

const COUNTS = { verified: 'only if verified', notFailed: 'unless authentication fails', any: 'even if not verified' }

/** What is otherwise where a rule of one owner is copied to another, in sentences. */
export function copiedWords(rule: Pick<Rule, 'when' | 'except' | 'claims' | 'mandatory'>, from: Owner, to: Owner): string[] {
  if (from === to) return []
  const out = [affectedScope(to)]
  if (rule.mandatory && isPersonal(to)) out.push('It is no longer mandatory: users’ own lists and rules can override it.')
  if (isPersonal(to)) out.push('It comes before the rules of departments and the organisation, but after mandatory rules.')
  else if (isPersonal(from)) out.push('Users’ own lists and rules come before it.')
  const [was, is] = [defaultCounts(from), defaultCounts(to)]
  const exempts = ruleProtects(rule) || (ruleStops(rule) && rule.except.length > 0)
  if (was !== is && exempts && [rule.when, ...rule.except].some(asksSender))
    out.push(`Where the rule does not say which senders count, a sender now counts ${COUNTS[is]}; before: ${COUNTS[was]}.`)
  if (isPersonal(to) && rule.claims.some(c => 'stop' in c && (c.stop.to === 'refuse' || c.stop.to === 'discard')))
    out.push('Personal rules cannot refuse or discard mail. Choose Spam or Bin.')
  return out
}

function affectedScope(owner: Owner): string {
  if (owner === 'organisation') return 'It now applies to the mail of all users.'
  return departmentIn(owner) === null
    ? 'It now applies to one user’s mail only.'
    : 'It now applies to the mail of that department and its subdepartments.'
}

function asksSender(c: Condition): boolean {
  return 'sender' in c || 'senderOn' in c || (groupMembers(c)?.some(asksSender) ?? false)
}
