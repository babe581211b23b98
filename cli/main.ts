import { checkCommand } from './check'
import { decideCommand } from './decide'
import { importCommand } from './import'
import { parseCommand } from './parse'
import { Complaint } from './complaint'
import { readsOnly } from './read'

const HELP = `sober-gate COMMAND …

  parse FILE…                        the facts of each message file (RFC 5322), as JSON Lines
  decide --policy P.json --recipient ADDRESS [--mail-from A] [--client IP] [--now INSTANT] [--score POINTS] FILE…
                                     lane and reasons of each message, as JSON Lines
  check POLICY…                      what is wrong with a policy, with its path; else what is questionable in it
  import [--recipient ADDRESS] [--url U] FILE|FOLDER…
                                     .eml files and mbox files into the running installation

"-" as a file is standard input. Errors go to standard error, and the exit code is then 2.
`

const COMMANDS: Record<string, (args: string[]) => Promise<void>> = {
  parse: parseCommand,
  decide: decideCommand,
  check: checkCommand,
  import: importCommand,
}

async function main([command = 'help', ...args]: string[]): Promise<void> {
  if (command === 'help' || command === '--help' || command === '-h') {
    process.stdout.write(HELP)
    return
  }
  const run = COMMANDS[command]
  if (!run) throw new Complaint(`There is no command “${command}”.\n\n${HELP}`)
  await run(args)
}

if (!readsOnly())
  main(process.argv.slice(2)).catch((error: unknown) => {
    const known = error instanceof Complaint || (error as { code?: string }).code?.startsWith('ERR_PARSE_ARGS')
    process.stderr.write(`sober-gate: ${known ? (error as Error).message : error instanceof Error ? error.stack : String(error)}\n`)
    process.exitCode = 2
  })
