import { entryKey, entryWords, type EntryText } from '#core/kinds'
import { sendersOfCondition, type Condition } from '#core/policy'
import type { Verdict } from '#core'
import { rowOf, type ConditionRow } from './conditionRows'

/** A way to exempt mail like a copy from a rule that stopped it. */
export interface ExceptionWay {
  words: string
  /** A new exception that says it. */
  row: ConditionRow
}

/** What has to be known of the copy. */
interface Facts {
  from: readonly { key: string, domain: string }[]
  list: { id: string | null }
  attempt: { authentication: { verdict: Verdict } }
}

/**
 * Ways to exempt mail like this copy, the narrowest first: its own address, its mailing list, its domain. None where nothing verified
 * the sender: an exception would let in whoever writes that From. None that is there already.
 */
export function exceptionsFor({ facts: { from, list, attempt } }: { facts: Facts }, except: readonly Condition[] = []): ExceptionWay[] {
  if (attempt.authentication.verdict !== 'pass') return []
  const sender = from[0]
  const senders: EntryText[] = [
    ...(sender?.key ? [{ kind: 'address' as const, value: sender.key }] : []),
    ...(list.id ? [{ kind: 'mailingList' as const, value: list.id }] : []),
    ...(sender?.domain ? [{ kind: 'domain' as const, value: sender.domain }] : []),
  ]
  const there = new Set(except.flatMap(c => ('sender' in c ? sendersOfCondition(c).map(entryKey) : [])))
  return senders
    .filter(entry => !there.has(entryKey(entry)))
    .map(sender => ({ words: entryWords(sender), row: rowOf({ sender }) }))
}
