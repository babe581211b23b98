import { wholeNumber } from '../platform/variables'

/** The largest message that is accepted, in bytes (RFC 1870). */
export const MAX_MESSAGE_BYTES = 25 * 1024 * 1024

/** Limits on what an SMTP client can use. */
export interface SmtpLimits {
  /** Connections at once, of everybody together, and of one client (RFC 5321 4.5.4 leaves it to the server). */
  clients: number
  perClient: number
  /** Seconds until a line must be complete, and until a transaction must have come to its end (RFC 5321 4.5.3.2). */
  commandSeconds: number
  transactionSeconds: number
  /** Recipients of one message; fewer than 100 must not be the limit (RFC 5321 4.5.3.1.8). */
  recipients: number
  /** Recipients that nobody is here; whoever goes on after so many guesses addresses. */
  unknownRecipients: number
}

/** The limits of this process; docs/security.md lists the variables. */
export function smtpLimits(): SmtpLimits {
  return {
    clients: wholeNumber('SOBER_GATE_SMTP_CLIENTS', 200),
    perClient: wholeNumber('SOBER_GATE_SMTP_CLIENTS_EACH', 20),
    commandSeconds: wholeNumber('SOBER_GATE_SMTP_COMMAND_SECONDS', 60),
    transactionSeconds: wholeNumber('SOBER_GATE_SMTP_TRANSACTION_SECONDS', 300),
    recipients: wholeNumber('SOBER_GATE_SMTP_RECIPIENTS', 1000, { least: 100 }),
    unknownRecipients: wholeNumber('SOBER_GATE_SMTP_UNKNOWN_RECIPIENTS', 10),
  }
}
