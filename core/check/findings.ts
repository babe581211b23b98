import { readPolicy, type Policy, type PolicyProblem } from '../policy'
import { checkLists } from './lists'
import { checkOrder } from './order'
import { checkRules } from './rules'
import type { CheckContext, Finding } from './types'

/** Everything that the checks find in a policy, in the order of its clauses. */
export function checkPolicy(policy: Policy, context: CheckContext): Finding[] {
  return [...checkLists(policy, context), ...checkRules(policy, context), ...checkOrder(policy)]
}

/** Reads a policy from outside and checks it: what is wrong with its form, else what is questionable in it. */
export function checkText(value: unknown, context: CheckContext): { problems: PolicyProblem[] } | { findings: Finding[] } {
  const read = readPolicy(value)
  return 'problems' in read ? { problems: read.problems } : { findings: checkPolicy(read.policy, context) }
}
