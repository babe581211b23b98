import type { Direction } from '../message'
import { effectWords, entryWords, factWords } from '../kinds'
import { capitalised, counted, oneOf, quoted } from '../wording'
import {
  defaultCounts,
  groupMembers,
  isGroup,
  HAZARDS,
  phraseText,
  sendersOfCondition,
  type Assignment,
  type Claim,
  type Near, type Condition,
  type Hazard,
  type Counts,
  type PhraseCondition,
  type PhrasePlace,
  type Rule,
} from '../policy'
import { listName, stopWords, type Names } from './names'

const COUNTS: Record<Counts, string> = {
  verified: 'verified senders only',
  notFailed: 'unless authentication fails',
  any: 'even if not verified',
}
const WHERE = {
  'subject': 'the subject',
  'own': 'the text',
  'quoted': 'quoted text',
  'hidden': 'hidden text',
  'sender name': 'the sender’s display name',
  'header': 'any header',
  'link': 'a link',
  'attachment name': 'an attachment’s name',
  'attachment text': 'an attachment’s text',
} as const

const RULE_DIRECTIONS: Record<Direction, string> = { inbound: '', outbound: 'outgoing mail: ', internal: 'internal mail: ' }
const LIST_DIRECTIONS: Record<Direction, string> = { inbound: '', outbound: ' outgoing mail by its recipient', internal: ' internal mail' }

/** A rule as one plain sentence, for reading only. */
export function ruleSentence(rule: Pick<Rule, 'when' | 'except' | 'claims' | 'end' | 'direction'>, names: Names): string {
  const which = 'every' in rule.when ? 'for every message, ' : `when ${conditionWords(rule.when, names)}, `
  const when = `${RULE_DIRECTIONS[rule.direction ?? 'inbound']}${which}`
  const except = rule.except.length ? `, unless ${oneOf(rule.except.map(c => conditionWords(c, names)))}` : ''
  const end = rule.end ? `; stops later rules${rule.end === 'all' ? ' of everyone' : ''}` : ''
  const sentence = `${when}${claimsWords(rule.claims, names)}${except}${end}.`
  return capitalised(sentence)
}

/** What a rule does, as commands joined by “and”. */
export function claimsWords(claims: readonly Claim[], names: Names): string {
  const parts = claims.map(c => claimWords(c, names))
  // "Keep in Inbox" is a protection and a place.
  const keeps =
    claims.some(c => 'protect' in c && c.protect.length === HAZARDS.length) && claims.some(c => 'place' in c && c.place.to === 'inbox')
  const rest = keeps
    ? ['keep in Inbox', ...claims.filter(c => !('protect' in c) && !('place' in c)).map(c => claimWords(c, names))]
    : parts
  return oneOf(rest, 'and', 8)
}

function claimWords(claim: Claim, names: Names): string {
  if ('stop' in claim) return stopWords(claim.stop, names)
  if ('protect' in claim) return protectWords(claim.protect)
  if ('place' in claim) {
    const { place } = claim
    return place.to === 'folder'
      ? `file in folder ${place.folder === undefined ? '(not named)' : quoted(place.folder)}`
      : place.to === 'filed'
        ? 'file away'
        : place.to === 'lowPriority'
          ? 'move to Low priority'
          : 'deliver to Inbox'
  }
  return effectWords(claim.effect)
}

/** What an allow entry or rule covers. */
export const HAZARD_WORDS: Record<Hazard, string> = { spam: 'spam', quarantine: 'quarantine', delete: 'deletion', refuse: 'refusal' }

function protectWords(hazards: readonly Hazard[]): string {
  return hazards.length === HAZARDS.length
    ? 'allow'
    : `allow despite ${oneOf(hazards.map(h => HAZARD_WORDS[h]), 'and')}`
}

/** A condition as a clause that follows “when”. */
export function conditionWords(condition: Condition, names: Names): string {
  if (isGroup(condition)) {
    const words = groupMembers(condition)!.map(m => (groupMembers(m) ? `(${conditionWords(m, names)})` : conditionWords(m, names)))
    return 'all' in condition
      ? oneOf(words, 'and', 6)
      : 'any' in condition
        ? oneOf(words, 'or', 6)
        : `none of these holds: ${oneOf(words, 'or', 6)}`
  }
  const counts = 'counts' in condition && condition.counts ? ` (${COUNTS[condition.counts]})` : ''
  if ('sender' in condition) return `the sender is ${oneOf(sendersOfCondition(condition).map(entryWords))}${counts}`
  if ('senderOn' in condition) return `the sender is on list ${listName(names, condition.senderOn)}${counts}`
  if ('phrases' in condition || 'set' in condition) return phraseWords(condition, names)
  if ('expression' in condition) return `${placeWords(condition.where)} matches the regular expression ${condition.expression}`
  return factWords(condition, names)
}

/** Where phrases look, by name: “the text”, “the header x-note”. */
export function placeName(place: PhrasePlace): string {
  return place.startsWith('header:') ? `the header ${place.slice(7)}` : WHERE[place as keyof typeof WHERE]
}

function placeWords(where: readonly PhrasePlace[] | undefined): string {
  return where
    ? oneOf(where.map(placeName))
    : 'the subject or text'
}

function phraseWords(condition: PhraseCondition, names: Names): string {
  const what =
    condition.set !== undefined
      ? `a phrase of set ${quoted(names.phraseSets.find(s => s.id === condition.set)?.name ?? condition.set)}`
      : oneOf((condition.phrases ?? []).map(item => quoted(phraseText(item)) + (typeof item === 'string' ? '' : nearWords(item.near))))
  const how = [
    ...(condition.minimum === undefined ? [] : [`with a score of ${condition.minimum} or more`]),
    ...(condition.view === 'obfuscated' ? ['also obfuscated spellings'] : condition.view === 'bare' ? ['with or without accents'] : []),
    ...(condition.whole === false ? ['also inside words'] : []),
  ]
  return `${placeWords(condition.where)} has ${what}${nearWords(condition.near)}${how.map(h => `, ${h}`).join('')}`
}

function nearWords(near: Near | undefined): string {
  return near
    ? ` ${near.within === undefined ? 'together with' : `within ${counted(near.within, 'word')} of`} ${oneOf(near.phrases.map(quoted))}`
    : ''
}

/** An assignment as one sentence: "Block, for Accounts: move to Spam." */
export function assignmentSentence(
  assignment: Pick<Assignment, 'side' | 'stop' | 'protect' | 'counts' | 'owner' | 'mandatory' | 'direction'>,
  names: Names,
  ownerName: string,
): string {
  const counts = assignment.counts ?? defaultCounts(assignment.owner)
  const way = LIST_DIRECTIONS[assignment.direction ?? 'inbound']
  const whom = ownerName === 'organisation' ? 'the whole organisation' : ownerName
  const [does, how] = assignment.side === 'block'
    ? ['block', stopWords(assignment.stop!, names)]
    : [protectWords(assignment.protect ?? HAZARDS), COUNTS[counts]]
  return `${capitalised(does)}${way}, for ${whom}: ${how}${assignment.mandatory ? '; mandatory' : ''}.`
}
