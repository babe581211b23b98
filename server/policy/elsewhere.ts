import type { Finding, ReadLines } from '#core'
import compileHere, { type CompiledElsewhere, type Earlier } from '../workers/compile'
import checkHere, { type ToCheck } from '../workers/check'
import { readLines } from '#core'
import { hasThreads, runOn } from '../platform/threads'

/** The policy in force, compiled off this thread. @param earlier of which what did not change is taken over */
export function compileElsewhere(earlier: Earlier | null): Promise<CompiledElsewhere> {
  return hasThreads() ? runOn('other', 'default', { earlier }, { file: 'compile' }) : compileHere({ earlier })
}

/** What the checks find in a policy. */
export function checkElsewhere(asked: ToCheck): Promise<Finding[]> {
  return hasThreads() ? runOn('checking', 'default', asked, { file: 'check' }) : Promise.resolve(checkHere(asked))
}

/** What was pasted into a list, as entries. */
export function readLinesElsewhere(pasted: Parameters<typeof readLines>[0]): Promise<ReadLines> {
  // A few lines are read sooner than handed over.
  return hasThreads() && pasted.text.length > 10_000
    ? runOn('other', 'default', pasted, { file: 'lines' })
    : Promise.resolve(readLines(pasted))
}
