import type { Evidence, NotCounted } from '../decide'
import { entryWords, foundWords, oneOf, quoted, withVisibleControls } from '../kinds'
import type { Lane, Policy, State, Stop } from '../policy'

/** What sentences need to know by name. */
export type Names = Pick<Policy, 'quarantines' | 'lists' | 'phraseSets'> & { trust?: Pick<Policy['trust'], 'upstreamVerdicts'> }

export function quarantineName(names: Pick<Names, 'quarantines'>, id: string | null | undefined): string {
  return names.quarantines.find(q => q.id === id)?.name ?? id ?? 'quarantine'
}

export function listName(names: Pick<Names, 'lists'>, id: string): string {
  if (!id) return 'a list that is not chosen yet'
  return names.lists.find(l => l.id === id)?.name ?? `a list that is gone (${id})`
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
    case 'discard':
      return stop.confirmed ? 'drop in silence' : 'drop (not confirmed, so the bin)'
  }
}

/** The names of the lanes, as people read them. */
export const LANE_NAMES: Record<Lane, string> = {
  inbox: 'inbox',
  lowPriority: 'low priority',
  spam: 'spam',
  quarantine: 'quarantine',
  bin: 'bin',
  refused: 'refused',
  discarded: 'discarded',
  sent: 'sent',
}

/** The names of the states of rules and assignments. */
export const STATE_NAMES: Record<State, string> = { enabled: 'enabled', monitor: 'monitor only', disabled: 'disabled' }

/** A lane for people; a quarantine by its name. */
export function laneWords(lane: Lane, quarantine: string | null, names: Pick<Names, 'quarantines'>): string {
  return lane === 'quarantine' && quarantine ? quarantineName(names, quarantine) : LANE_NAMES[lane]
}

/** Where a copy lies, in a sentence: "the inbox", "the quarantine Security". */
export function laneInSentence(lane: Lane, quarantine: string | null, names: Pick<Names, 'quarantines'>): string {
  return {
    inbox: 'the inbox',
    lowPriority: 'low priority',
    spam: 'spam',
    quarantine: `the quarantine ${quarantineName(names, quarantine)}`,
    bin: 'the bin',
    refused: 'where it was refused',
    discarded: 'where it was discarded',
    sent: 'its next stop',
  }[lane]
}

export function notCountedWords(why: NotCounted): string {
  return {
    expired: 'expired',
    notVerified: 'the sender is not verified',
    hiddenText: 'the words stand in hidden text only',
    neverRefused: 'a list never refuses mail to postmaster or from the null sender',
  }[why]
}

const TEXT_PLACES = {
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
        `${quoted(e.phrase)} in `
        + `${e.label ? `${e.place === 'header' ? 'the header ' : ''}${withVisibleControls(e.label)}` : TEXT_PLACES[e.place]}`,
      )
    else if (e.kind === 'sender')
      seen.add(
        e.entry.kind === 'everyone'
          ? 'everyone'
          : `${entryWords(e.entry)}${e.on === 'from' ? '' : ` in ${SENDER_PLACES[e.on]}`}${e.listName ? `, list ${e.listName}` : ''}`,
      )
    else if (e.kind === 'score') seen.add(`${e.points} points, where ${e.from} are enough`)
    else if (e.kind === 'learned') seen.add(`this is like what the reader put there, ${Math.round(e.certainty * 100)} % sure`)
    else seen.add(foundWords(e.fact, e.shown))
  }
  return oneOf([...seen], 'and')
}
