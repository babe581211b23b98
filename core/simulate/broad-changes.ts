import { entryKindOf, type EntryText } from '../kinds'
import { sendersOfCondition, type Condition } from '../policy'
import type { PolicyChange } from '../change'
import { counted, numberWords } from '../wording'

/** What a change would stop, of the mail that is delivered now. */
export interface Stopped {
  copies: number
  senders: number
  /** Marked wanted, said or implied. */
  wanted: number
  /** Registrable domains of the not marked ones. */
  unmarkedDomains: number
  /** Copies delivered now among all that were looked at in its scope. */
  delivered: number
}

// A share says nothing of a handful. Common practice, no source.
const SHARE = 50
const FROM_COPIES = 10
const FROM_SENDERS = 3
const MAX_DOMAINS = 20

/**
 * Why a change is so broad that it wants a second look, in a sentence; null if it is not.
 * @param narrow it asks for just these addresses or mailing lists (see `isNarrow`): their share is their own affair
 */
export function broadness({ copies, senders, wanted, unmarkedDomains, delivered }: Stopped, narrow: boolean): string | null {
  if (wanted)
    return `It would stop ${counted(wanted, 'message')} marked wanted.`
  if (!narrow && copies >= FROM_COPIES && senders >= FROM_SENDERS && copies * SHARE > delivered)
    return `It would stop ${numberWords(copies)} of ${counted(delivered, 'delivered message')}, `
      + `from ${counted(senders, 'sender')}: more than 1 in ${SHARE}.`
  if (unmarkedDomains > MAX_DOMAINS)
    return `It would stop unmarked mail from ${counted(unmarkedDomains, 'domain')}: more than ${MAX_DOMAINS}.`
  return null
}

/** Whether all that changes ask for is addresses and mailing lists. */
export function isNarrow(net: readonly PolicyChange[]): boolean {
  const puts = net.filter(c => c.type === 'put')
  const entries = puts.flatMap((c): EntryText[] =>
    c.kind === 'entries' ? c.entries : c.kind === 'list' ? (c.value.entries ?? []) : c.kind === 'rule' ? sendersIn(c.value.when) : [])
  const asks = puts.some(c => c.kind === 'rule' ? !sendersIn(c.value.when).length : c.kind === 'phraseSet' || c.kind === 'threshold')
  return !asks && entries.length > 0 && entries.every(isOneSender)
}

function sendersIn(when: Condition): EntryText[] {
  if ('sender' in when) return sendersOfCondition(when)
  // One of several that must all hold narrows the whole.
  return 'all' in when ? (when.all.map(sendersIn).find(s => s.length && s.every(isOneSender)) ?? []) : []
}

function isOneSender({ kind }: EntryText): boolean {
  return entryKindOf(kind).name === 'address' || entryKindOf(kind).name === 'mailingList'
}
