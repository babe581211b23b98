import { parseArgs } from 'node:util'
import { checkText } from '#core'
import { Complaint } from './complaint'
import { eachFile, printLine } from './files'

/** sober-gate check POLICY… : problems with their path on standard error and exit code 2, else findings as JSON Lines. */
export async function checkCommand(args: string[]): Promise<void> {
  const { values, positionals } = parseArgs({ args, allowPositionals: true, options: { now: { type: 'string' } } })
  if (values.now !== undefined && Number.isNaN(Date.parse(values.now)))
    throw new Complaint(`“${values.now}” is not an instant; write it as 2026-11-24T09:00:00Z.`)
  const now = new Date(values.now ?? Date.now()).toISOString()
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
