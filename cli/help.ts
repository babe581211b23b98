/** The help of a command. */
export interface Help {
  /** Its arguments. */
  usage: string
  /** What it does, in a line. */
  does: string
  /** Its options and its output, a line each. */
  more: readonly string[]
}

const NOW = '--now INSTANT        time for expiry dates, such as 2026-11-24T09:00:00Z (default: now)'
const MARKS = '--judgements CSV     how users marked messages: columns message-id, judgement (wanted or unwanted), and recipient if needed'
const RECIPIENT = '--recipient ADDRESS  the recipient (default: Delivered-To, else the addresses in To and Cc that the policy knows)'
const TRUST_RECEIVED = [
  '--trust-received     trust the Received fields of the files, and so the results of trusted relays and the direction. Anyone can',
  '                     write these fields: use this only for mail from a server of your own',
]
const POLICY = '--policy P.json      the policy, in its published format'

export const HELP = {
  parse: {
    usage: 'FILE…',
    does: 'print the facts of each message file (RFC 5322), as JSON Lines',
    more: ['Lists and rules use these facts: see docs/reading.md. If a message cannot be read completely, “defects” says so.'],
  },
  decide: {
    usage: '--policy P.json --recipient ADDRESS [--mail-from A] [--client IP] [--now INSTANT] [--score POINTS] FILE…',
    does: 'print location and reasons of each message, as JSON Lines',
    more: [
      POLICY,
      '--recipient ADDRESS  the recipient',
      '--mail-from A        the envelope sender (default: none)',
      '--client IP          address of the sending server (default: none; then no relay is trusted)',
      '--now INSTANT        time of receipt, such as 2026-11-24T09:00:00Z (default: now)',
      '--score POINTS       score of the message, for a policy with thresholds',
    ],
  },
  check: {
    usage: '[--now INSTANT] POLICY…',
    does: 'print errors of a policy with their path, or its findings as JSON Lines',
    more: [NOW, 'The exit code is 2 if a policy is not valid.'],
  },
  simulate: {
    usage: '--before P1.json --after P2.json [--judgements CSV] [--recipient ADDRESS] [--trust-received] [--now INSTANT] FILE|MBOX…',
    does: 'print which messages another policy would decide differently, as JSON; reads message files and mbox files (RFC 4155)',
    more: [
      '--before, --after    two policies with the same users, in the published format',
      MARKS,
      RECIPIENT,
      ...TRUST_RECEIVED,
      NOW,
      'Likely mistakes come first in “sample”, with file and number.',
    ],
  },
  fixes: {
    usage: '--policy P.json --judgements CSV [--recipient ADDRESS] [--trust-received] [--now INSTANT] FILE|MBOX…',
    does: 'print suggested fixes for false positives and missed messages, best first, as JSON',
    more: [
      POLICY,
      MARKS,
      RECIPIENT,
      ...TRUST_RECEIVED,
      NOW,
      'False positives and missed messages are listed separately, each with its messages, its fixes, and the reason for their order.',
      'Fixes with “inCover” are best applied together: they fix most for least harm.',
    ],
  },
  verify: {
    usage: '--zone FILE [--client IP] [--helo NAME] [--sender ADDRESS] [--now INSTANT] MESSAGE…',
    does: 'verify the sender of each message file by SPF, DKIM, DMARC and ARC; prints JSON Lines',
    more: [
      '--zone FILE          DNS records in master file format (RFC 1035 5.1); nothing else is looked up',
      '--client IP          address of the sending server, for SPF (default: none)',
      '--helo NAME          its name in EHLO or HELO (default: none)',
      '--sender ADDRESS     the envelope sender (default: none)',
      '--now INSTANT        time of receipt, for signatures that expire (default: now)',
    ],
  },
  import: {
    usage: '[--recipient ADDRESS] [--trust-received] [--url U] FILE|FOLDER…',
    does: 'import .eml files and mbox files (RFC 4155) into the running installation; prints JSON Lines',
    more: [
      '--recipient ADDRESS  the recipient (default: Delivered-To, else To and Cc)',
      ...TRUST_RECEIVED,
      '--url U              another installation; set its token in SOBER_GATE_TOKEN',
    ],
  },
} satisfies Record<string, Help>

/** All commands, a few lines each. */
export function helpForAll(): string {
  const lines = Object.entries(HELP).map(([name, { usage, does }]) => `  ${name} ${usage}\n      ${does}`)
  return `sober-gate COMMAND …\n\n${lines.join('\n')}\n\n${ENDING}For the options of a command: sober-gate COMMAND --help\n`
}

/** One command with all options. */
export function helpFor(name: keyof typeof HELP): string {
  const { usage, does, more } = HELP[name]
  return `sober-gate ${name} ${usage}\n\n${does}\n\n${more.map(line => `  ${line}\n`).join('')}\n${ENDING}`
}

const ENDING = 'Use “-” as file name for standard input. Errors go to standard error; the exit code is then 2.\n'
