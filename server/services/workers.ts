import type { CheckContext, Finding, Policy } from '#core'
import compileHere, { type CompiledElsewhere, type Earlier } from '../workers/compile'
import checkHere from '../workers/check'
import { readLines, type ReadLines } from './entry-lines'
import { hasThreads, runOn } from './threads'

/** The policy in force, compiled off this thread. @param earlier of which what did not change is taken over */
export function compileElsewhere(earlier: Earlier | null): Promise<CompiledElsewhere> {
  return hasThreads() ? runOn('other', 'default', { earlier }, { file: 'compile' }) : compileHere({ earlier })
}

/** What the checks find in a policy. */
export function checkElsewhere(policy: Policy, context: CheckContext): Promise<Finding[]> {
  return hasThreads() ? runOn('other', 'default', { policy, context }, { file: 'check' }) : Promise.resolve(checkHere({ policy, context }))
}

/** What was pasted into a list, as entries. */
export function readLinesElsewhere(pasted: Parameters<typeof readLines>[0]): Promise<ReadLines> {
  // A few lines are read sooner than handed over.
  return hasThreads() && pasted.text.length > 10_000
    ? runOn('other', 'default', pasted, { file: 'lines' })
    : Promise.resolve(readLines(pasted))
}
