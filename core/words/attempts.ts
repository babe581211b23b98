import { laneInSentence, type Names } from './names'
import type { Lane } from '../policy'

/** One try to hand over a message, as it is told to people. Times are ISO 8601 instants. */
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
  copy: { lane: Lane, quarantine: string | null, gone: 'erased' | 'discarded' | null } | null
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

// Swedish writes them as ISO 8601 does.
const minute = (iso: string, timeZone: string) =>
  `${new Intl.DateTimeFormat('sv-SE', { timeZone, dateStyle: 'short', timeStyle: 'short' }).format(new Date(iso))} ${timeZone}`

/** What became of one try, in one line. */
export function attemptWords({ replyCode, reply, repeat, copy }: AttemptReport, names: Pick<Names, 'quarantines'>): string {
  if (replyCode >= 500) return `refused: the sending server was told “${replyCode} ${reply}”`
  if (replyCode >= 400) return `put off: the sending server was told “${replyCode} ${reply}”, and to come again`
  if (repeat) return 'accepted; the same message had come before, so it made no second copy'
  if (!copy) return 'accepted'
  if (copy.gone) return `accepted, and ${copy.gone} by decision: nothing but this record is left`
  return `accepted, and lies in ${laneInSentence(copy.lane, copy.quarantine, names)} now`
}

/**
 * The answer to "I sent it and you never got it", as plain text to pass on.
 * @param asked with the IANA name of the time zone in which it is written
 */
export function attemptsText(
  { timeZone, ...asked }: AttemptsAsked & { timeZone: string },
  found: readonly AttemptReport[],
  names: Pick<Names, 'quarantines'>,
): string {
  const at = (iso: string) => minute(iso, timeZone)
  const span = `between ${at(asked.after)} and ${at(asked.before)}`
  const what = `from ${asked.sender || 'anybody'} to ${asked.recipient || 'anybody here'}, ${span}`
  if (!found.length)
    return [
      `Mail ${what}: it never came here.`,
      'No server tried to hand over such a message in that time, so nothing here refused, dropped or hid it.',
      'Whoever sent it may ask the server that it was given to, where it is.',
      '',
    ].join('\n')
  const lines = [`Mail ${what}: ${found.length === 1 ? 'one try' : `${found.length} tries`} to hand it over.`, '']
  for (const one of found) {
    lines.push(at(one.at))
    lines.push(`  from    ${one.mailFrom || 'the null sender'}${one.from && one.from !== one.mailFrom ? ` (From: ${one.from})` : ''}`)
    lines.push(`  to      ${one.rcptTo ?? 'nobody yet'}`)
    if (one.subject) lines.push(`  subject ${one.subject}`)
    if (one.client) lines.push(`  by      ${one.client}`)
    lines.push(`  came to ${attemptWords(one, names)}`)
    if (one.replyCode < 400) lines.push(`  reply   ${one.replyCode} ${one.reply}`)
    if (one.sentence) lines.push(`  why     ${one.sentence}`)
    for (const step of one.onward) lines.push(`  then    ${at(step.at)}: ${step.words}`)
    lines.push('')
  }
  return lines.join('\n')
}
