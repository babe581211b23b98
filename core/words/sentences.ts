import type { Direction } from '../message'
import { effectWords, entryWords, factWords, oneOf, quoted } from '../kinds'
import {
  defaultCounts,
  groupMembers,
  isGroup,
  HAZARDS,
  phraseText,
  sendersOfCondition,
  type Assignment,
  type Claim,
  type Near,
  type Condition,
  type Counts,
  type PhraseCondition,
  type PhrasePlace,
  type Rule,
} from '../policy'
import { listName, stopWords, type Names } from './names'

const COUNTS: Record<Counts, string> = {
  verified: 'when verified',
  notFailed: 'unless authentication fails',
  any: 'verified or not',
}
const WHERE = {
  'subject': 'the subject',
  'own': 'the writer’s own text',
  'quoted': 'quoted text',
  'hidden': 'hiddenText',
  'sender name': 'the sender’s name',
  'header': 'any header',
  'link': 'a link',
  'attachment name': 'an attachment’s name',
  'attachment text': 'an attachment’s text',
} as const

const RULE_DIRECTIONS: Record<Direction, string> = { inbound: '', outbound: 'of mail that goes out: ', internal: 'of mail among us: ' }
const LIST_DIRECTIONS: Record<Direction, string> = {
  inbound: '',
  outbound: ' in mail that goes out, by its recipient',
  internal: ' in mail among us',
}

/** A rule as one plain sentence, for reading only. */
export function ruleSentence(rule: Pick<Rule, 'when' | 'except' | 'claims' | 'end' | 'direction'>, names: Names): string {
  const which = 'every' in rule.when ? 'every message: ' : `when ${conditionWords(rule.when, names)}, `
  const when = `${RULE_DIRECTIONS[rule.direction ?? 'inbound']}${which}`
  const except = rule.except.length ? `, except ${oneOf(rule.except.map(c => exceptionWords(c, names)))}` : ''
  const end = rule.end ? `; then no later rule ${rule.end === 'all' ? 'of anybody' : ''}`.trimEnd() : ''
  const sentence = `${when}${claimsWords(rule.claims, names)}${except}${end}.`
  return sentence.charAt(0).toUpperCase() + sentence.slice(1)
}

/** What a rule does, as commands joined by “and”. */
export function claimsWords(claims: readonly Claim[], names: Names): string {
  const parts = claims.map(c => claimWords(c, names))
  // "Keep in the inbox" is a protection and a place.
  const keeps =
    claims.some(c => 'protect' in c && c.protect.length === HAZARDS.length) && claims.some(c => 'place' in c && c.place.to === 'inbox')
  const rest = keeps
    ? ['keep in the inbox', ...claims.filter(c => !('protect' in c) && !('place' in c)).map(c => claimWords(c, names))]
    : parts
  return oneOf(rest, 'and', 8)
}

function claimWords(claim: Claim, names: Names): string {
  if ('stop' in claim) return stopWords(claim.stop, names)
  if ('protect' in claim) return protectWords(claim.protect)
  if ('place' in claim) {
    const { place } = claim
    return place.to === 'folder'
      ? `file in ${place.folder ?? 'a folder'}`
      : place.to === 'filed'
        ? 'file out of the inbox'
        : place.to === 'lowPriority'
          ? 'send to low priority'
          : 'put in the inbox'
  }
  return effectWords(claim.effect)
}

function protectWords(hazards: readonly string[]): string {
  return hazards.length === HAZARDS.length
    ? 'protect'
    : `protect from ${oneOf(
      hazards.map(h => (({ delete: 'deletion', refuse: 'refusal' }) as Record<string, string>)[h] ?? h),
      'and',
    )}`
}

/** A condition as a clause that follows “when”. */
export function conditionWords(condition: Condition, names: Names): string {
  if (isGroup(condition)) {
    const words = groupMembers(condition)!.map(m => (groupMembers(m) ? `(${conditionWords(m, names)})` : conditionWords(m, names)))
    return 'all' in condition
      ? oneOf(words, 'and', 6)
      : 'any' in condition
        ? oneOf(words, 'or', 6)
        : `none of these is so: ${oneOf(words, 'or', 6)}`
  }
  const counted = 'counts' in condition && condition.counts ? ` (${COUNTS[condition.counts]})` : ''
  if ('sender' in condition) return `the sender is ${oneOf(sendersOfCondition(condition).map(entryWords))}${counted}`
  if ('senderOn' in condition) return `the sender is on ${listName(names, condition.senderOn)}${counted}`
  if ('phrases' in condition || 'set' in condition) return phraseWords(condition, names)
  if ('expression' in condition) return `${placeWords(condition.where)} fits the expression ${condition.expression}`
  return factWords(condition, names)
}

/** Where phrases look, by name: “the writer’s own text”, “the header x-note”. */
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
      ? `a phrase of ${names.phraseSets.find(s => s.id === condition.set)?.name ?? condition.set}`
      : oneOf((condition.phrases ?? []).map(item => quoted(phraseText(item)) + (typeof item === 'string' ? '' : nearWords(item.near))))
  const how = [
    ...(condition.minimum === undefined ? [] : [`weighing ${condition.minimum} or more`]),
    ...(condition.view === 'obfuscated' ? ['also in disguise'] : condition.view === 'bare' ? ['with or without accents'] : []),
    ...(condition.whole === false ? ['also inside words'] : []),
  ]
  return `${placeWords(condition.where)} has ${what}${nearWords(condition.near)}${how.map(h => `, ${h}`).join('')}`
}

function nearWords(near: Near | undefined): string {
  return near ? ` ${near.within === undefined ? 'together with' : `within ${near.within} words of`} ${oneOf(near.phrases.map(quoted))}` : ''
}

function exceptionWords(condition: Condition, names: Names): string {
  if ('sender' in condition) return `from ${oneOf(sendersOfCondition(condition).map(entryWords))}`
  if ('senderOn' in condition) return `from ${listName(names, condition.senderOn)}`
  return `when ${conditionWords(condition, names)}`
}

/** A assignment as one sentence. */
export function assignmentSentence(
  assignment: Pick<Assignment, 'side' | 'stop' | 'protect' | 'counts' | 'owner' | 'mandatory' | 'direction'>,
  names: Names,
  ownerName: string,
): string {
  const counts = assignment.counts ?? defaultCounts(assignment.owner)
  const way = LIST_DIRECTIONS[assignment.direction ?? 'inbound']
  const what =
    assignment.side === 'block'
      ? `block${way}: ${stopWords(assignment.stop!, names)}`
      : `allow${way}: ${protectWords(assignment.protect ?? HAZARDS)}, ${COUNTS[counts]}`
  const whom = ownerName === 'organisation' ? 'the whole organisation' : ownerName
  return `For ${whom}, ${what}${assignment.mandatory ? ', and nobody may soften it' : ''}.`
}
