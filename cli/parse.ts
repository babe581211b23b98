import { parseArgs } from 'node:util'
import { parseContent } from '#core'
import { eachFile, printLine } from './files'

/** sober-gate parse FILE… */
export async function parseCommand(args: string[]): Promise<void> {
  const { positionals } = parseArgs({ args, allowPositionals: true, options: {} })
  await eachFile(positionals, async (bytes, file) => printLine({ file, ...await parseContent(bytes) }))
}
