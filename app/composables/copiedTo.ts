import { departmentIn, isPersonal, type Owner, type Rule } from '#core/policy'

/** What is otherwise where a rule of one owner is copied to another, in sentences. */
export function copiedWords(rule: Pick<Rule, 'claims' | 'mandatory'>, from: Owner, to: Owner): string[] {
  if (from === to) return []
  const out = [affectedScope(to)]
  if (rule.mandatory && isPersonal(to)) out.push('It is no longer mandatory: users’ own lists and rules can override it.')
  if (isPersonal(to)) out.push('It comes before the rules of departments and the organisation, but after mandatory rules.')
  else if (isPersonal(from)) out.push('Users’ own lists and rules come before it.')
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
