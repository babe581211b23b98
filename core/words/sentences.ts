import type { Direction } from '../message'
import { effectWords, entryWords, factWords } from '../kinds'
import { capitalised, counted, oneOf, quoted } from '../wording'
import {
  countsOf,
  groupMembers,
  isGroup,
  HAZARDS,
  phraseText,
  ruleProtects,
  ruleStops,
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
import { listName, NOT_SEEN, stopWords, type Names } from './names'

const COUNTS: Record<Counts, string> = {
  verified: 'verified senders only',
  notFailed: 'unless authentication fails',
  any: 'even if not verified',
}
const COUNTS_HERE: Record<Counts, string> = { ...COUNTS, verified: 'if verified' }
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
export function ruleSentence(
  rule: Pick<Rule, 'when' | 'except' | 'claims' | 'end' | 'direction' | 'mandatory'>,
  names: Names,
): string {
  const [when, except] = (['when', 'except'] as const).map(part => favouring(rule, part))
  const which = 'every' in rule.when ? 'for every message, ' : `when ${conditionWords(rule.when, names, when)}, `
  const begins = `${RULE_DIRECTIONS[rule.direction ?? 'inbound']}${which}`
  const unless = rule.except.length ? `, unless ${oneOf(rule.except.map(c => conditionWords(c, names, except)))}` : ''
  const end = rule.end ? `; stops later rules${rule.end === 'all' ? ' of everyone' : ''}` : ''
  const sentence = `${begins}${claimsWords(rule.claims, names)}${unless}${end}.`
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
        ? 'move to Filed'
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

/** Whether a condition works in favour of mail, and what its clause then asks of a sender. */
export interface Favouring {
  exempts: boolean
  mandatory?: boolean
}

/** What holds for the conditions of a rule, or for its exceptions. */
export function favouring(rule: Pick<Rule, 'claims' | 'mandatory' | 'direction'>, part: 'when' | 'except'): Favouring | null {
  // Nobody forges to whom a message goes.
  if (rule.direction === 'outbound') return null
  return { exempts: part === 'when' ? ruleProtects(rule) : ruleStops(rule), mandatory: rule.mandatory }
}

/** A condition as a clause that follows “when”; one that works in favour of mail says which senders count. */
export function conditionWords(condition: Condition, names: Names, favour: Favouring | null = null): string {
  if (isGroup(condition)) {
    const inside = favour && 'none' in condition ? { ...favour, exempts: !favour.exempts } : favour
    const each = (m: Condition) => conditionWords(m, names, inside)
    const words = groupMembers(condition)!.map(m => (groupMembers(m) ? `(${each(m)})` : each(m)))
    return 'all' in condition
      ? oneOf(words, 'and', 6)
      : 'any' in condition
        ? oneOf(words, 'or', 6)
        : `none of these holds: ${oneOf(words, 'or', 6)}`
  }
  const counts = (c: { counts?: Counts }) =>
    (favour?.exempts ? ` (${COUNTS_HERE[countsOf({ counts: c.counts, mandatory: favour.mandatory })]})` : '')
  if ('sender' in condition) return `the sender is ${oneOf(sendersOfCondition(condition).map(entryWords))}${counts(condition)}`
  if ('senderOn' in condition) return `the sender is on list ${listName(names, condition.senderOn)}${counts(condition)}`
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

function setName(names: Names, id: string): string {
  const set = names.phraseSets.find(s => s.id === id)
  return set ? quoted(set.name) : NOT_SEEN
}

function phraseWords(condition: PhraseCondition, names: Names): string {
  const what =
    condition.set !== undefined
      ? `a phrase of set ${setName(names, condition.set)}`
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
  const way = LIST_DIRECTIONS[assignment.direction ?? 'inbound']
  const whom = ownerName === 'organisation' ? 'the whole organisation' : ownerName
  const [does, how] = assignment.side === 'block'
    ? ['block', stopWords(assignment.stop!, names)]
    : [protectWords(assignment.protect ?? HAZARDS), COUNTS[countsOf(assignment)]]
  return `${capitalised(does)}${way}, for ${whom}: ${how}${assignment.mandatory ? '; mandatory' : ''}.`
}
