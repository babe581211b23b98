import { withVisibleControls } from './controls'
import type { Evidence, Lane, NotCounted } from '../decide'
import type { EntryKind, Fact, Policy, Stop } from '../policy'

/** What sentences need to know by name. */
export type Names = Pick<Policy, 'quarantines' | 'lists' | 'phraseSets'>

export function quarantineName(names: Pick<Names, 'quarantines'>, id: string | null | undefined): string {
  return names.quarantines.find(q => q.id === id)?.name ?? id ?? 'quarantine'
}

export function listName(names: Pick<Names, 'lists'>, id: string): string {
  return names.lists.find(l => l.id === id)?.name ?? `a list that is gone (${id})`
}

/** "a", "a or b", "a, b or c"; long rows are cut: "a, b, c or 9 others". */
export function oneOf(items: readonly string[], joint = 'or', most = 4): string {
  const shown = items.length > most ? [...items.slice(0, most - 1), `${items.length - most + 1} others`] : items
  if (shown.length < 2) return shown[0] ?? 'nothing'
  return `${shown.slice(0, -1).join(', ')} ${joint} ${shown.at(-1)}`
}

export function quoted(text: string): string {
  return `“${text}”`
}

/** An entry as a person would say it. */
export function entryWords(entry: { kind: EntryKind, value: string }): string {
  switch (entry.kind) {
    case 'address':
      return entry.value
    case 'domain':
      return `@${entry.value}`
    case 'domain and below':
      return `@${entry.value} and below`
    case 'pattern':
      return entry.value
    case 'words':
      return `“${entry.value}” in address or name`
    case 'mailing list':
      return `mailing list ${entry.value}`
    case 'network':
      return `network ${entry.value}`
    case 'everyone':
      return 'everyone'
  }
}

/** "hold in Fee demands", "send to spam", … */
export function stopWords(stop: Stop, names: Pick<Names, 'quarantines'>): string {
  switch (stop.to) {
    case 'spam':
      return 'send to spam'
    case 'quarantine':
      return `hold in ${quarantineName(names, stop.quarantine)}`
    case 'bin':
      return 'send to the bin'
    case 'erase':
      return stop.confirmed ? 'erase' : 'erase (not confirmed, so the bin)'
    case 'refuse':
      return 'refuse'
    case 'drop':
      return stop.confirmed ? 'drop in silence' : 'drop (not confirmed, so the bin)'
  }
}

/** A lane for people; a quarantine by its name. */
export function laneWords(lane: Lane, quarantine: string | null, names: Pick<Names, 'quarantines'>): string {
  return lane === 'quarantine' && quarantine ? quarantineName(names, quarantine) : lane
}

export function notCountedWords(why: NotCounted): string {
  return {
    'expired': 'expired',
    'not verified': 'the sender is not verified',
    'hidden text': 'the words stand in hidden text only',
    'never refused': 'a list never refuses mail to postmaster or from the null sender',
  }[why]
}

const PLACES = {
  'subject': 'the subject',
  'own': 'the text',
  'quoted': 'quoted text',
  'hidden': 'hidden text',
  'sender name': 'the sender’s name',
  'link': 'a link',
  'header': 'a header',
  'attachment name': 'an attachment’s name',
  'attachment text': 'an attachment',
} as const
const SENDER_PLACES = { from: 'From', sender: 'Sender', envelope: 'the envelope sender', recipient: 'the recipient' } as const

/** What was found, in a few words: “release fee” in the subject. */
export function evidenceWords(evidence: readonly Evidence[]): string {
  const seen = new Set<string>()
  for (const e of evidence) {
    if (e.kind === 'phrase')
      seen.add(
        `${quoted(e.phrase)} in ${e.label ? `${e.place === 'header' ? 'the header ' : ''}${withVisibleControls(e.label)}` : PLACES[e.place]}`,
      )
    else if (e.kind === 'sender')
      seen.add(
        e.entry.kind === 'everyone'
          ? 'everyone'
          : `${entryWords(e.entry)}${e.on === 'from' ? '' : ` in ${SENDER_PLACES[e.on]}`}${e.listName ? `, list ${e.listName}` : ''}`,
      )
    else if (e.kind === 'score') seen.add(`${e.points} points, where ${e.from} are enough`)
    else if (e.kind === 'learned') seen.add(`this is like what the reader put there, ${Math.round(e.certainty * 100)} % sure`)
    else seen.add(factWords(e.fact, e.shown))
  }
  return oneOf([...seen], 'and')
}

/** A plain fact of a message that a condition found. */
export function factWords(fact: Fact, shown: string): string {
  if ('every' in fact) return 'every message'
  if ('recipient' in fact) return `the recipient ${shown}`
  if ('addressed' in fact) return addressedWords(fact.addressed)
  if ('header' in fact) return `the header ${shown}`
  if ('date' in fact) return `${fact.date.of} ${shown.slice(0, 10)}`
  if ('size' in fact) return `a size of ${shown}`
  if ('attachment' in fact) return `the attachment ${withVisibleControls(shown)}`
  if ('attachments' in fact) return `${shown} attachments`
  if ('mailingList' in fact) return `mailing list mail (${shown})`
  if ('authentication' in fact) return authenticationWords(fact.authentication)
  if ('direction' in fact) return `${shown} mail`
  if ('defect' in fact) return `the defect “${shown}”`
  if ('markedUpstream' in fact) return `the upstream mark “${shown}”`
  return shown
}

export function addressedWords(how: 'to' | 'cc' | 'only me' | 'not by name'): string {
  return {
    'to': 'it is addressed to the reader',
    'cc': 'the reader gets it as a copy',
    'only me': 'it is addressed to the reader alone',
    'not by name': 'the reader is not named in it',
  }[how]
}

export function authenticationWords(verdict: 'pass' | 'fail' | 'none'): string {
  return { pass: 'the sender is verified', fail: 'authentication fails', none: 'nothing verifies the sender' }[verdict]
}
