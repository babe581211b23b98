import { parseMessage, readPolicy, type Envelope, type Message, type Policy, type Trust } from '#core'

export const OURS = 'saltmere.example'
export const RELAY = { network: '198.51.100.7/32', authservId: 'relay.saltmere.example' }
export const TRUST: Trust = {
  ownDomains: [OURS],
  relays: [RELAY],
  ownNetworks: ['10.0.0.0/8'],
  upstreamVerdicts: [{ id: 'label', name: 'Label', before: '[SPAM]' }],
}
export const NOW = '2026-11-24T09:00:00.000Z'

export function envelope(over: Partial<Envelope> = {}): Envelope {
  return {
    mailFrom: null,
    rcptTo: [`oskar@${OURS}`],
    client: '203.0.113.9',
    helo: 'mail.test',
    tls: false,
    user: null,
    receivedAt: NOW,
    ...over,
  }
}

export interface Letter {
  from?: string
  sender?: string
  subject?: string
  text?: string
  html?: string
  /** What the configured relay found; none means that it came straight. */
  auth?: 'pass' | 'fail'
  mailFrom?: string
}

/** A message by way of the real parser, verified or not as a relay would say. */
export function letter({
  from = 'someone@elsewhere.example',
  sender,
  subject = 'A subject',
  text = 'A text',
  html,
  auth,
  mailFrom,
}: Letter = {}): Promise<Message> {
  const domain = from.slice(from.lastIndexOf('@') + 1).split('>')[0]
  const lines = [
    ...(auth
      ? [
          `Authentication-Results: ${RELAY.authservId}; dmarc=${auth} header.from=${domain}`,
          `Received: from x (x [203.0.113.9]) by ${RELAY.authservId}; Tue, 24 Nov 2026 09:00:00 +0000`,
        ]
      : []),
    `From: ${from}`,
    ...(sender ? [`Sender: ${sender}`] : []),
    `To: oskar@${OURS}`,
    `Subject: ${subject}`,
    'Date: Tue, 24 Nov 2026 09:00:00 +0000',
    'Message-ID: <1@elsewhere.example>',
    'MIME-Version: 1.0',
    `Content-Type: text/${html === undefined ? 'plain' : 'html'}; charset=utf-8`,
    '',
    html ?? text,
  ]
  return parseMessage(
    new TextEncoder().encode(lines.join('\r\n')),
    envelope({ mailFrom: mailFrom ?? null, client: auth ? '198.51.100.7' : '203.0.113.9' }),
    TRUST,
  )
}

type Clauses = Partial<
  Pick<Policy, 'people' | 'thresholds' | 'lists' | 'assignments' | 'rules' | 'phraseSets' | 'quarantines'>
>

/** A policy with one person, Oskar, at home in Accounts and second in Berthing. */
export function policy(clauses: Clauses = {}): Policy {
  const read = readPolicy({
    format: 'sober-gate-policy',
    formatVersion: 3,
    version: 7,
    trust: TRUST,
    departments: [
      { id: 'office', name: 'Office' },
      { id: 'accounts', name: 'Accounts', parent: 'office' },
      { id: 'berthing', name: 'Berthing' },
    ],
    people: [{ id: 'oskar', name: 'Oskar', addresses: [`oskar@${OURS}`], departments: ['accounts', 'berthing'] }],
    quarantines: [
      { id: 'general', name: 'General', general: true },
      { id: 'security', name: 'Security' },
      { id: 'accounts-hold', name: 'Accounts hold' },
    ],
    ...clauses,
  })
  if ('problems' in read) throw new Error(JSON.stringify(read.problems))
  return read.policy
}

/** A message as it is written, handed over so. */
export function message(raw: string, handed: Envelope): Promise<Message> {
  return parseMessage(new TextEncoder().encode(raw), handed, TRUST)
}
