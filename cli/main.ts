import { checkCommand } from './check'
import { decideCommand } from './decide'
import type { HELP } from './help'
import { helpFor, helpForAll } from './help'
import { importCommand } from './import'
import { fixesCommand } from './fixes'
import { parseCommand } from './parse'
import { simulateCommand } from './simulate'
import { verifyCommand } from './verify'
import { Complaint } from './complaint'
import { readsOnly } from './read'

const COMMANDS: Record<keyof typeof HELP, (args: string[]) => Promise<void>> = {
  parse: parseCommand,
  decide: decideCommand,
  check: checkCommand,
  simulate: simulateCommand,
  fixes: fixesCommand,
  verify: verifyCommand,
  import: importCommand,
}

const ASKS_FOR_HELP = new Set(['help', '--help', '-h'])

async function main([command = 'help', ...args]: string[]): Promise<void> {
  const asked = ASKS_FOR_HELP.has(command) ? args[0] : command
  if (asked === undefined) return say(helpForAll())
  if (!isCommand(asked)) throw new Complaint(`Unknown command “${asked}”.\n\n${helpForAll()}`)
  if (asked !== command || args.some(a => a === '--help' || a === '-h')) return say(helpFor(asked))
  await COMMANDS[asked](args)
}

function isCommand(name: string): name is keyof typeof HELP {
  return Object.hasOwn(COMMANDS, name)
}

function say(text: string): void {
  process.stdout.write(text)
}

if (!readsOnly())
  main(process.argv.slice(2)).catch((error: unknown) => {
    const known = error instanceof Complaint || (error as { code?: string }).code?.startsWith('ERR_PARSE_ARGS')
    process.stderr.write(`sober-gate: ${known ? (error as Error).message : error instanceof Error ? error.stack : String(error)}\n`)
    process.exitCode = 2
  })
