import { entryKindOf, type EntryText } from '../kinds'
import { sendersOfCondition, type Condition } from '../policy'
import type { PolicyChange } from '../change'
import { counted, numberWords } from '../wording'

/** What a change would do in one direction: stop mail that is delivered now, or let in mail that is stopped now. */
export interface Affected {
  copies: number
  senders: number
  /** Marked the other way, said or implied: wanted of what it would stop, unwanted of what it would let in. */
  marked: number
  /** Copies that lie so now, among all that were looked at in its scope. */
  of: number
}

/** What a change would stop. */
export interface Stopped extends Affected {
  /** Registrable domains of the not marked ones. */
  unmarkedDomains: number
}

// A share says nothing of a handful. Common practice, no source.
const SHARE = 50
const FROM_COPIES = 10
const FROM_SENDERS = 3
const MAX_DOMAINS = 20

/**
 * Why a change affects so much that it wants a second look, in sentences; null if it does not. Letting in is harm as stopping is.
 * @param narrow it asks for just these addresses or mailing lists (see `isNarrow`): their share is their own affair
 */
export function broadness(stopped: Stopped, letIn: Affected, narrow: boolean): string | null {
  const why = [whyStopping(stopped, narrow), whyLettingIn(letIn, narrow)].filter(w => w !== null)
  return why.length ? why.join(' ') : null
}

function whyStopping(stopped: Stopped, narrow: boolean): string | null {
  const { copies, senders, marked, of, unmarkedDomains } = stopped
  if (marked) return `It would stop ${counted(marked, 'message')} marked wanted.`
  if (!narrow && isMuch(stopped))
    return `It would stop ${numberWords(copies)} of ${counted(of, 'delivered message')}, `
      + `from ${counted(senders, 'sender')}: more than 1 in ${SHARE}.`
  if (unmarkedDomains > MAX_DOMAINS)
    return `It would stop unmarked mail from ${counted(unmarkedDomains, 'domain')}: more than ${MAX_DOMAINS}.`
  return null
}

function whyLettingIn(letIn: Affected, narrow: boolean): string | null {
  const { copies, senders, marked, of } = letIn
  if (marked) {
    const some = marked === copies ? '' : `${numberWords(marked)} of them `
    return `It would let in ${counted(copies, 'stopped message')}, ${some}marked unwanted.`
  }
  return !narrow && isMuch(letIn)
    ? `It would let in ${numberWords(copies)} of ${counted(of, 'stopped message')}, `
    + `from ${counted(senders, 'sender')}: more than 1 in ${SHARE}.`
    : null
}

function isMuch({ copies, senders, of }: Affected): boolean {
  return copies >= FROM_COPIES && senders >= FROM_SENDERS && copies * SHARE > of
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
