import { parseArgs } from 'node:util'
import { eachFile, printAnswer } from './files'
import { ask } from './read'

/** sober-gate parse: see help.ts. */
export async function parseCommand(args: string[]): Promise<void> {
  const { positionals } = parseArgs({ args, allowPositionals: true, options: {} })
  await eachFile(positionals, async (bytes, file) => printAnswer(file, await ask(bytes, {})))
}
