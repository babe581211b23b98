import { deliveredTo, fileTrace, headerFields } from '#core/message'
import { isKnownRecipient, receive, type Received } from './intake'
import { activePolicy } from '../policy/active-policy'
import { invalid } from '../platform/problem'

/** What is said of a message besides its bytes. */
export interface ImportForm {
  /** For whom it is; left out, the message says. */
  recipient?: string
  /** Count its own trace as if it had just been handed over: the client and, through our relays, authentication and direction. */
  trustReceived: boolean
}

/**
 * Takes one message from a file, decided as SMTP mail is. For whom: as said, else Delivered-To, else To and Cc, as far
 * as they are ours. When: the topmost Received says, else Date, else now. Anybody can write Received fields into a file, so
 * the client that they name, and what hangs on it, counts only if it is to be believed.
 */
export async function importMessage(
  bytes: Uint8Array,
  { recipient, trustReceived }: ImportForm,
): Promise<{ copies: Received[], receivedAt: string }> {
  if (!bytes.length) throw invalid('The file is empty.')
  const active = await activePolicy()
  const fields = headerFields(bytes)
  const candidates = recipient !== undefined ? [recipient] : deliveredTo(fields)
  const ours = candidates.filter(r => isKnownRecipient(active, r))
  if (!ours.length) {
    throw invalid(
      recipient !== undefined
        ? `${recipient} is not an address of a user.`
        : 'None of the addresses in Delivered-To, To and Cc belongs to a user. Choose the recipient, or use --recipient ADDRESS.',
      { recipient: 'Choose the recipient.' },
    )
  }
  const { client, mailFrom, receivedAt } = fileTrace(fields)
  const envelope = {
    mailFrom,
    rcptTo: ours,
    client: trustReceived ? client : null,
    helo: null,
    tls: false,
    user: null,
    receivedAt: notInTheFuture(receivedAt),
  }
  return { copies: (await receive(bytes, envelope, 'import')).copies, receivedAt: envelope.receivedAt }
}

function notInTheFuture(date: string | null): string {
  const now = new Date().toISOString()
  return date && date < now && date > '1980' ? date : now
}
