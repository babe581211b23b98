import type { Finding, LineReport, ReadLines } from '#core'
import { csvEntries, report, type InPieces, type ReadEntries, type ToReport } from '../workers/lines'
import compileHere, { type CompiledOnThread, type Earlier } from '../workers/compile'
import checkHere, { type ToCheck } from '../workers/check'
import { readLines } from '#core'
import { NOT_CSV } from '../platform/csv'
import { othersFirst } from '../platform/slices'
import { hasThreads, runOn } from '../platform/threads'
import { invalid } from '../platform/problem'

/** The active policy, compiled off this thread. @param earlier of which what did not change is taken over */
export function compileOnThread(earlier: Earlier | null): Promise<CompiledOnThread> {
  return hasThreads() ? runOn('compiling', 'default', { earlier }) : compileHere({ earlier })
}

/** What the checks find in a policy. */
export function checkOnThread(asked: ToCheck): Promise<Finding[]> {
  return hasThreads() ? runOn('checking', 'default', asked, { file: 'check' }) : Promise.resolve(checkHere(asked))
}

/** What was pasted into a list, as entries. */
export async function readLinesOnThread(pasted: Parameters<typeof readLines>[0]): Promise<ReadLines> {
  // A few lines are read sooner than handed over.
  if (!hasThreads() || pasted.text.length <= 10_000) return readLines(pasted)
  const { rest, pieces } = await runOn<InPieces>('pasted', 'default', pasted)
  const out: Pick<ReadLines, 'good' | 'at'> = { good: [], at: [] }
  for (const piece of pieces) {
    const [good, at] = JSON.parse(piece) as [ReadLines['good'], ReadLines['at']]
    out.good.push(...good)
    out.at.push(...at)
    await othersFirst()
  }
  return { ...rest, ...out }
}

/** What becomes of each line of a paste. */
export function reportOnThread(asked: ToReport): Promise<LineReport[]> {
  return hasThreads() && asked.read.count > 200 ? runOn('pasted', 'report', asked) : Promise.resolve(report(asked))
}

/** The entries of a CSV file; null where its header does not name them. */
export async function csvEntriesOnThread(asked: { text: string, most: number }): Promise<ReadEntries | null> {
  try {
    return await (hasThreads() ? runOn('pasted', 'csvEntries', asked) : csvEntries(asked))
  }
  catch (error) {
    // From a thread it comes without its class.
    const message = error instanceof Error ? error.message : ''
    throw message.startsWith(NOT_CSV) ? invalid(message, { text: `${NOT_CSV}.` }) : error
  }
}
