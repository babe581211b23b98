import { entryWords, type EntryText } from '#core/kinds'
import type { Verdict } from '#core'
import { rowOf, type ConditionRow } from './conditionRows'

/** A way to exempt mail like a copy from a rule that stopped it. */
export interface ExceptionWay {
  words: string
  /** A new exception that says it. */
  row: ConditionRow
  /** Why it would not count for this very copy, or null. */
  vain: string | null
}

/** What has to be known of the copy. */
interface Facts {
  from: readonly { key: string, domain: string }[]
  list: { id: string | null }
  attempt: { authentication: { verdict: Verdict } }
}

/** Ways to exempt mail like this copy, the narrowest first: its own address, its mailing list, its domain. */
export function exceptionsFor({ facts: { from, list, attempt } }: { facts: Facts }): ExceptionWay[] {
  const sender = from[0]
  const senders: EntryText[] = [
    ...(sender?.key ? [{ kind: 'address' as const, value: sender.key }] : []),
    ...(list.id ? [{ kind: 'mailingList' as const, value: list.id }] : []),
    ...(sender?.domain ? [{ kind: 'domain' as const, value: sender.domain }] : []),
  ]
  const isVerified = attempt.authentication.verdict === 'pass'
  return senders.map(sender => ({
    words: entryWords(sender),
    row: rowOf({ sender, ...(isVerified || sender.kind === 'mailingList' ? {} : { counts: 'notFailed' as const }) }),
    vain: attempt.authentication.verdict === 'fail' ? 'authentication of this message failed, and a From is easily forged' : null,
  }))
}
