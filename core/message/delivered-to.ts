import { mailboxes } from './mailboxes'
import type { RawField } from './structure'

/**
 * For whom a message in a file is, as it says itself: Delivered-To first; To and Cc only where there is none, since they name
 * everybody's mailbox. Keys of addresses.
 */
export function deliveredTo(fields: readonly RawField[]): string[] {
  const keys = (name: string) => mailboxes(fields, name).map(a => a.key)
  const delivered = keys('delivered-to')
  return delivered.length ? delivered : [...keys('to'), ...keys('cc')]
}
