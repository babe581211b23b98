import { readLines, type ReadLines } from '#core'

/** What was pasted into a list, read off the thread that serves people. */
export default function lines({ text, below, as }: Parameters<typeof readLines>[0]): ReadLines {
  return readLines({ text, below, as })
}
