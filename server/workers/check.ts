import { checkPolicy, type CheckContext, type Finding, type Policy } from '#core'

/** The findings of a policy, off the thread that serves people. */
export default function check({ policy, context }: { policy: Policy, context: CheckContext }): Finding[] {
  return checkPolicy(policy, context)
}
