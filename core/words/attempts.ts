import { FILED, laneInSentence, type Names } from './names'
import { counted, instantWords } from '../wording'
import type { Lane } from '../policy'

/** One message offered by SMTP, as people read it. Times are ISO 8601 instants. */
export interface AttemptReport {
  at: string
  client: string | null
  mailFrom: string | null
  /** The address in From, where a message came. */
  from: string | null
  rcptTo: string | null
  subject: string | null
  replyCode: number
  reply: string
  /** It had come before; this try made no second copy. */
  repeat: boolean
  copy: { lane: Lane, quarantine: string | null, gone: 'erased' | 'discarded' | null, filed?: boolean } | null
  /** Why it went where it went, in a sentence; null where nothing was decided. */
  sentence: string | null
  /** What was done with it since. */
  onward: { at: string, words: string }[]
}

/** What was looked for. */
export interface AttemptsAsked {
  sender?: string
  recipient?: string
  after: string
  before: string
}

/** The result of one attempt, in one line. */
export function attemptWords({ replyCode, reply, repeat, copy }: AttemptReport, names: Pick<Names, 'quarantines'>): string {
  if (replyCode >= 500) return `refused: the sending server received “${replyCode} ${reply}”`
  if (replyCode >= 400) return `deferred: the sending server received “${replyCode} ${reply}” and can try again`
  if (repeat) return 'accepted; a repeat of a message that had already arrived, so it was not stored twice'
  if (!copy) return 'accepted'
  if (copy.gone) return `accepted, then ${copy.gone === 'erased' ? 'deleted permanently' : 'discarded'}; only this log entry is left`
  return `accepted; now in ${copy.filed ? FILED : laneInSentence(copy.lane, copy.quarantine, names)}`
}

/** For whom an answer is written: colleagues, or the outside sender, who is told no rule, no words that were found and no names. */
export type Audience = 'internal' | 'sender'

const SENDERS_WORDS: Partial<Record<Lane, string>> = {
  inbox: 'accepted and delivered',
  lowPriority: 'accepted and delivered',
  quarantine: 'accepted; held for review',
  spam: 'accepted; delivered to the spam folder',
}

function forSender(attempt: AttemptReport, names: Pick<Names, 'quarantines'>): string {
  const { replyCode, repeat, copy } = attempt
  if (replyCode >= 400 || repeat) return attemptWords(attempt, names)
  return (copy && !copy.gone ? SENDERS_WORDS[copy.lane] : undefined) ?? 'accepted'
}

/**
 * The answer to "I sent it and you never got it", as plain text.
 * @param asked with the IANA name of the time zone in which it is written
 */
export function attemptsText(
  { timeZone, audience, ...asked }: AttemptsAsked & { timeZone: string, audience: Audience },
  found: readonly AttemptReport[],
  names: Pick<Names, 'quarantines'>,
): string {
  const at = (iso: string) => `${instantWords(iso, timeZone)} (${timeZone})`
  const span = `between ${at(asked.after)} and ${at(asked.before)}`
  const what = `from ${asked.sender || 'any sender'} to ${asked.recipient || 'any recipient'}, ${span}`
  if (!found.length)
    return [
      `Mail ${what}: it never arrived here.`,
      'No server offered such a message in that time, so it was neither refused nor discarded here.',
      'The sender can ask the administrator of the sending server where it is.',
      '',
    ].join('\n')
  const lines = [`Mail ${what}: ${counted(found.length, 'delivery attempt')}.`, '']
  for (const one of found) {
    lines.push(at(one.at))
    lines.push(`  from    ${one.mailFrom || 'the null sender'}${one.from && one.from !== one.mailFrom ? ` (From: ${one.from})` : ''}`)
    lines.push(`  to      ${one.rcptTo ?? 'no recipient given'}`)
    if (one.subject) lines.push(`  subject ${one.subject}`)
    if (one.client) lines.push(`  by      ${one.client}`)
    lines.push(`  result  ${audience === 'sender' ? forSender(one, names) : attemptWords(one, names)}`)
    if (one.replyCode < 400) lines.push(`  reply   ${one.replyCode} ${one.reply}`)
    if (audience === 'internal') {
      if (one.sentence) lines.push(`  why     ${one.sentence}`)
      for (const step of one.onward) lines.push(`  then    ${at(step.at)}: ${step.words}`)
    }
    lines.push('')
  }
  return lines.join('\n')
}
