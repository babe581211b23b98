import type { Envelope } from '#core'
import { OWN_DOMAIN } from './world'

/** A try by which no message came in. */
export interface RefusedAttempt {
  envelope: Envelope
  reply: { code: number, text: string }
}

// Days before the last one, hour and minute, from whom, to whom; all clients lie in documentation networks (RFC 5737).
type Row = readonly [before: number, clock: string, from: string, mailbox: string, client: string]
const MISSPELT: readonly Row[] = [
  [2, '08:12', 'accounts@quayline.example', 'osker.brandt', '203.0.113.21'],
  [2, '08:40', 'accounts@quayline.example', 'osker.brandt', '203.0.113.21'],
  [5, '14:03', 'groups@tern-island.example', 'booking', '203.0.113.40'],
  [9, '10:27', 'crewing@imara-lines.example', 'pilot', '203.0.113.52'],
  [16, '16:55', 'desk@gull-rock.example', 'nadia.quil', '203.0.113.77'],
]
const TOO_LARGE: readonly Row[] = [
  [4, '11:31', 'plans@hexham-dredging.example', 'tove.halloran', '203.0.113.90'],
  [4, '11:46', 'plans@hexham-dredging.example', 'tove.halloran', '203.0.113.90'],
]
const GUESSED = ['info', 'sales', 'admin2', 'hr', 'payroll', 'ceo']

/** What was refused at the door in the last weeks: addresses that nobody has, plans that were too large, and a guesser. */
export function refusedAttempts(anchor: Date): RefusedAttempt[] {
  const day = (before: number, clock: string) =>
    new Date(anchor.getTime() - before * 24 * 3600_000 + Date.parse(`1970-01-01T${clock}:00Z`)).toISOString()
  const from = ([before, clock, mailFrom, mailbox, client]: Row): Envelope => ({
    mailFrom,
    rcptTo: [`${mailbox}@${OWN_DOMAIN}`],
    client,
    helo: `mail.${mailFrom.slice(mailFrom.indexOf('@') + 1)}`,
    tls: true,
    user: null,
    receivedAt: day(before, clock),
  })
  const nobody = (mailbox: string) => ({ code: 550, text: `5.1.1 Mailbox ${mailbox}@${OWN_DOMAIN} does not exist` })
  return [
    ...MISSPELT.map(row => ({ envelope: from(row), reply: nobody(row[3]) })),
    ...TOO_LARGE.map(row => ({
      envelope: from(row),
      reply: { code: 552, text: '5.3.4 Message too large; the limit is 25 MB (RFC 1870)' },
    })),
    ...GUESSED.map((mailbox, i) => ({
      envelope: from([7, `03:1${i}`, 'news@cheap-anchor.test', mailbox, '198.51.100.9']),
      reply: nobody(mailbox),
    })),
  ]
}
