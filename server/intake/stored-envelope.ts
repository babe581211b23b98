import { makeAddress, type Attempt, type Envelope } from '#core'
import type { attempts } from '../db/schema'

/** How a message was handed over, for deciding it again. */
export interface StoredEnvelope {
  envelope: Envelope
  attempt: Partial<Attempt>
}

/** What of an attempt deciding asks for. */
export type AttemptRow = Pick<
  typeof attempts.$inferSelect,
  'mailFrom' | 'client' | 'firstHop' | 'helo' | 'tls' | 'signedIn' | 'at' | 'direction' | 'authentication' | 'defects'
>

/** The handing-over as it was when the message came: the relays of then may not be those of today. */
export function storedEnvelope(attempt: AttemptRow, recipient: string): StoredEnvelope {
  const { mailFrom, client, firstHop, helo, tls, signedIn, at, direction, authentication, defects } = attempt
  return {
    envelope: { mailFrom, rcptTo: [recipient], client, helo, tls, user: signedIn, receivedAt: at.toISOString() },
    attempt: {
      client: firstHop === null ? client : firstHop || null,
      envelopeSender: mailFrom ? makeAddress(mailFrom) : null,
      direction: (direction ?? 'inbound') as Attempt['direction'],
      ...(authentication ? { authentication } : {}),
      ...(defects ? { defects } : {}),
    },
  }
}
