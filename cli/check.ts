import { parseArgs } from 'node:util'
import { checkText } from '#core'
import { eachFile, printLine } from './files'
import { instantFrom } from './instant'

/** sober-gate check POLICY… : problems with their path on standard error and exit code 2, else findings as JSON Lines. */
export async function checkCommand(args: string[]): Promise<void> {
  const { values, positionals } = parseArgs({ args, allowPositionals: true, options: { now: { type: 'string' } } })
  const now = instantFrom(values.now)
  await eachFile(positionals, async (bytes, file) => {
    const checked = checkText(jsonOf(bytes), { now })
    if ('problems' in checked)
      throw new Error(`not a valid policy:\n${checked.problems.map(p => `  ${p.path || '/'}: ${p.message}`).join('\n')}`)
    for (const finding of checked.findings) printLine({ file, ...finding })
  })
}

function jsonOf(bytes: Uint8Array): unknown {
  try {
    return JSON.parse(new TextDecoder().decode(bytes))
  }
  catch (error) {
    throw new Error(`not JSON: ${error instanceof Error ? error.message : String(error)}`)
  }
}
