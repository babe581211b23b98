import { parseArgs } from 'node:util'
import { eachFile, printLine } from './files'
import { readMessage } from './read'

/** sober-gate parse FILE… */
export async function parseCommand(args: string[]): Promise<void> {
  const { positionals } = parseArgs({ args, allowPositionals: true, options: {} })
  await eachFile(positionals, async (bytes, file) => printLine({ file, ...await readMessage(bytes) }))
}
