import type { Evidence, NotCounted } from '../decide'
import { entryWords, foundWords, withVisibleControls } from '../kinds'
import { numberWords, oneOf, percentWords, quoted } from '../wording'
import type { Lane, Policy, State, Stop } from '../policy'

/** What sentences need to know by name. */
export type Names = Pick<Policy, 'quarantines' | 'lists' | 'phraseSets'> & { trust?: Pick<Policy['trust'], 'upstreamVerdicts'> }

export function quarantineName(names: Pick<Names, 'quarantines'>, id: string | null | undefined): string {
  return names.quarantines.find(q => q.id === id)?.name ?? (id ? 'deleted' : 'quarantine')
}

/** Names are for people, and ids are not: what is gone, or not theirs to see, has none. */
export const NOT_SEEN = '(deleted, or not yours to see)'

/** A list by its name, quoted. */
export function listName(names: Pick<Names, 'lists'>, id: string): string {
  if (!id) return '(no list chosen)'
  const list = names.lists.find(l => l.id === id)
  return list ? quoted(list.name) : NOT_SEEN
}

/** "hold in quarantine “General”", "move to Spam", … */
export function stopWords(stop: Stop, names: Pick<Names, 'quarantines'>): string {
  switch (stop.to) {
    case 'spam':
      return 'move to Spam'
    case 'quarantine':
      return `hold in quarantine ${quoted(quarantineName(names, stop.quarantine))}`
    case 'bin':
      return 'move to Bin'
    case 'erase':
      return stop.confirmed ? 'delete permanently' : 'delete permanently (not confirmed, so move to Bin)'
    case 'refuse':
      return 'refuse'
    case 'discard':
      return stop.confirmed ? 'discard' : 'discard (not confirmed, so move to Bin)'
  }
}

/** The names of the locations, as people read them. */
export const LANE_NAMES: Record<Lane, string> = {
  inbox: 'Inbox',
  lowPriority: 'Low priority',
  spam: 'Spam',
  quarantine: 'Quarantine',
  bin: 'Bin',
  refused: 'Refused',
  discarded: 'Discarded',
  sent: 'Sent',
}

/** Where a message is that is delivered and out of Inbox: on screen a location, in the data a flag of the inbox. */
export const FILED = 'Filed'

/** The names of the states of rules and assignments. */
export const STATE_NAMES: Record<State, string> = { enabled: 'enabled', monitor: 'monitor only', disabled: 'disabled' }

/** A location for people: "Spam", "Quarantine “Security”". */
export function laneWords(lane: Lane, quarantine: string | null, names: Pick<Names, 'quarantines'>): string {
  return lane === 'quarantine' && quarantine ? `${LANE_NAMES.quarantine} ${quoted(quarantineName(names, quarantine))}` : LANE_NAMES[lane]
}

/** Where a message ended, also where only its log entry is left: "Spam", "Deleted permanently". */
export function placeOfCopy(
  copy: { lane: Lane, quarantine: string | null, gone: 'erased' | 'discarded' | null, filed?: boolean },
  names: Pick<Names, 'quarantines'>,
): string {
  if (copy.filed) return FILED
  return copy.gone === 'erased' ? 'Deleted permanently' : laneWords(copy.lane, copy.quarantine, names)
}

/** A location within a sentence: "Inbox", "quarantine “Security”". */
export function laneInSentence(lane: Lane, quarantine: string | null, names: Pick<Names, 'quarantines'>): string {
  return lane === 'quarantine' ? `quarantine ${quoted(quarantineName(names, quarantine))}` : LANE_NAMES[lane]
}

export function notCountedWords(why: NotCounted): string {
  return {
    expired: 'expired',
    notVerified: 'sender not verified',
    hiddenText: 'the words are in hidden text only',
    neverRefused: 'lists never refuse mail to postmaster or from the null sender',
  }[why]
}

const TEXT_PLACES = {
  'subject': 'the subject',
  'own': 'the text',
  'quoted': 'quoted text',
  'hidden': 'hidden text',
  'sender name': 'the sender’s display name',
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
          : `${entryWords(e.entry)}${e.on === 'from' ? '' : ` in ${SENDER_PLACES[e.on]}`}`
            + (e.listName ? `, list ${quoted(e.listName)}` : ''),
      )
    else if (e.kind === 'score') seen.add(`a score of ${numberWords(e.points)} (threshold ${numberWords(e.from)})`)
    else if (e.kind === 'learned') seen.add(`similar to mail that the recipient moved there (${percentWords(e.certainty)} certain)`)
    else seen.add(foundWords(e.fact, e.shown))
  }
  return oneOf([...seen], 'and')
}
