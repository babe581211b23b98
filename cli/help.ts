/** What a command is told by, one line and whole. */
export interface Help {
  /** What may stand behind its name. */
  usage: string
  /** What it does, in a line. */
  does: string
  /** Its options and what comes out, a line each. */
  more: readonly string[]
}

export const HELP = {
  parse: {
    usage: 'FILE…',
    does: 'the facts of each message file (RFC 5322), as JSON Lines',
    more: ['The facts are those that rules are decided by: docs/reading.md. A message that cannot be read whole says so in its defects.'],
  },
  decide: {
    usage: '--policy P.json --recipient ADDRESS [--mail-from A] [--client IP] [--now INSTANT] [--score POINTS] FILE…',
    does: 'lane and reasons of each message, as JSON Lines',
    more: [
      '--policy P.json      the policy, as its published schema has it',
      '--recipient ADDRESS  for whom it is decided',
      '--mail-from A        the envelope sender; none unless said',
      '--client IP          who hands it over; nobody unless said, and then no relay is believed',
      '--now INSTANT        when it comes in, such as 2026-11-24T09:00:00Z; now unless said',
      '--score POINTS       the points of the message, for a policy with thresholds',
    ],
  },
  check: {
    usage: '[--now INSTANT] POLICY…',
    does: 'what is wrong with a policy, with its path; else what is questionable in it, as JSON Lines',
    more: ['--now INSTANT        the time by which expiry is judged; now unless said', 'The exit code is 2 where a policy is not valid.'],
  },
  simulate: {
    usage: '--before P1.json --after P2.json [--judgements CSV] [--recipient ADDRESS] [--now INSTANT] FILE|MBOX…',
    does: 'what one policy would do otherwise than another to messages and mbox files (RFC 4155), as JSON',
    more: [
      '--before, --after    two policies, as their published schema has it, of the same people',
      '--judgements CSV     what people said: columns message-id, judgement (wanted or unwanted), and recipient where that matters',
      '--recipient ADDRESS  for whom; else Delivered-To says, else To and Cc, as far as they are people of the policy',
      '--now INSTANT        the time by which expiry is judged; now unless said',
      'The worst of it comes first in "sample", by file and number.',
    ],
  },
  fixes: {
    usage: '--policy P.json --judgements CSV [--recipient ADDRESS] [--now INSTANT] FILE|MBOX…',
    does: 'the changes that would put copies right that were judged against their lane, the best first, as JSON',
    more: [
      '--policy P.json      the policy, as its published schema has it',
      '--judgements CSV     what people said: columns message-id, judgement (wanted or unwanted), and recipient where that matters',
      '--recipient ADDRESS  for whom; else Delivered-To says, else To and Cc, as far as they are people of the policy',
      '--now INSTANT        the time by which expiry is judged; now unless said',
      'Wrongly stopped and wrongly let in are told apart, each with the copies, the mends, and why each stands where it does.',
    ],
  },
  import: {
    usage: '[--recipient ADDRESS] [--believe] [--url U] FILE|FOLDER…',
    does: '.eml files and mbox files (RFC 4155) into the running installation, as JSON Lines',
    more: [
      '--recipient ADDRESS  for whom; else Delivered-To says, else To and Cc',
      '--believe            count the Received fields of the files: which client handed a message over, and so what our relays',
      '                     said of its sender, and whether it came from inside. Anybody can write them; say it only of mail',
      '                     that was taken from a server of yours',
      '--url U              an installation elsewhere, with its token in SOBER_GATE_TOKEN',
    ],
  },
} satisfies Record<string, Help>

/** All commands, a few lines each. */
export function helpForAll(): string {
  const lines = Object.entries(HELP).map(([name, { usage, does }]) => `  ${name} ${usage}\n      ${does}`)
  return `sober-gate COMMAND …\n\n${lines.join('\n')}\n\n${ENDING}Of one command more is told by: sober-gate COMMAND --help\n`
}

/** One command, whole. */
export function helpFor(name: keyof typeof HELP): string {
  const { usage, does, more } = HELP[name]
  return `sober-gate ${name} ${usage}\n\n${does}\n\n${more.map(line => `  ${line}\n`).join('')}\n${ENDING}`
}

const ENDING = '"-" as a file is standard input. Errors go to standard error, and the exit code is then 2.\n'
