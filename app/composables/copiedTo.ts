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

const COUNTS = { verified: 'only when verified', notFailed: 'unless authentication fails', any: 'always' }

/** What is otherwise where a rule of one owner is copied to another, in sentences. */
export function copiedWords(rule: Pick<Rule, 'when' | 'except' | 'claims' | 'mandatory'>, from: Owner, to: Owner): string[] {
  if (from === to) return []
  const out = [affectedScope(to)]
  if (rule.mandatory && isPersonal(to)) out.push('It no longer comes before everybody’s own lists and rules.')
  if (isPersonal(to)) out.push('It comes before the rules of departments and of the organisation, but not before a must.')
  else if (isPersonal(from)) out.push('Everybody’s own lists and rules come before it.')
  const [was, is] = [defaultCounts(from), defaultCounts(to)]
  const exempts = ruleProtects(rule) || (ruleStops(rule) && rule.except.length > 0)
  if (was !== is && exempts && [rule.when, ...rule.except].some(asksSender))
    out.push(`Where it does not say when a sender counts, one now counts ${COUNTS[is]}; before it was ${COUNTS[was]}.`)
  if (isPersonal(to) && rule.claims.some(c => 'stop' in c && (c.stop.to === 'refuse' || c.stop.to === 'discard')))
    out.push('Nobody has mail turned away at the door for themselves: choose spam or the bin.')
  return out
}

function affectedScope(owner: Owner): string {
  if (owner === 'organisation') return 'It now looks at the mail of everybody.'
  return departmentIn(owner) === null
    ? 'It now looks at one person’s mail only.'
    : 'It now looks at the mail of that department, and of those below it.'
}

function asksSender(c: Condition): boolean {
  return 'sender' in c || 'senderOn' in c || (groupMembers(c)?.some(asksSender) ?? false)
}
