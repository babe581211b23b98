import { groupMembers, HAZARDS, type Binding, type Claim, type Condition, type Counts, type Effect, type Rule } from '../policy'
import { entryWords, listName, oneOf, quoted, stopWords, type Names } from './names'

const COUNTS: Record<Counts, string> = {
  'pass': 'when verified',
  'not fail': 'unless authentication fails',
  'any': 'verified or not',
}
const WHERE = { subject: 'the subject', own: 'the writer’s own text', quoted: 'quoted text', hidden: 'hidden text' } as const

/** A rule as one plain sentence, for reading only. */
export function ruleSentence(rule: Pick<Rule, 'when' | 'except' | 'claims' | 'end'>, names: Names): string {
  const when = 'every' in rule.when ? 'Every message: ' : `When ${conditionWords(rule.when, names)}, `
  const except = rule.except.length ? `, except ${oneOf(rule.except.map(c => exceptionWords(c, names)))}` : ''
  const end = rule.end ? `; then no later rule ${rule.end === 'all' ? 'of anybody' : ''}`.trimEnd() : ''
  return `${when}${claimsWords(rule.claims, names)}${except}${end}.`
}

/** What a rule does, as commands joined by “and”. */
export function claimsWords(claims: readonly Claim[], names: Names): string {
  const parts = claims.map(c => claimWords(c, names))
  // "Keep in the inbox" is a protection and a place.
  const keeps = claims.some(c => 'protect' in c && c.protect.length === HAZARDS.length) && claims.some(c => 'place' in c && c.place.to === 'inbox')
  const rest = keeps ? ['keep in the inbox', ...claims.filter(c => !('protect' in c) && !('place' in c)).map(c => claimWords(c, names))] : parts
  return oneOf(rest, 'and', 8)
}

function claimWords(claim: Claim, names: Names): string {
  if ('stop' in claim) return stopWords(claim.stop, names)
  if ('protect' in claim) return protectWords(claim.protect)
  if ('place' in claim) {
    const { place } = claim
    return place.to === 'folder' ? `file in ${place.folder}` : place.to === 'filed' ? 'file out of the inbox' : place.to === 'slow lane' ? 'put in the slow lane' : 'put in the inbox'
  }
  return effectWords(claim.effect)
}

function protectWords(hazards: readonly string[]): string {
  return hazards.length === HAZARDS.length ? 'protect' : `protect from ${oneOf(hazards.map(h => ({ delete: 'deletion', refuse: 'refusal' } as Record<string, string>)[h] ?? h), 'and')}`
}

function effectWords(effect: Effect): string {
  switch (effect.kind) {
    case 'tag': return `tag ${quoted(effect.value ?? '')}`
    case 'important': return 'mark important'
    case 'header': return `add the header ${quoted(effect.value ?? '')}`
    case 'subject mark': return `put ${quoted(effect.value ?? '')} before the subject`
    default: return `${effect.kind}${effect.value ? ` ${effect.value}` : ''}`
  }
}

/** A condition as a clause that follows “when”. */
export function conditionWords(condition: Condition, names: Names): string {
  const members = groupMembers(condition)
  if (members) {
    const words = members.map(m => groupMembers(m) ? `(${conditionWords(m, names)})` : conditionWords(m, names))
    return 'all' in condition ? oneOf(words, 'and', 6) : 'any' in condition ? oneOf(words, 'or', 6) : `none of these is so: ${oneOf(words, 'or', 6)}`
  }
  if ('sender' in condition) return `the sender is ${entryWords(condition.sender)}${condition.counts ? ` (${COUNTS[condition.counts]})` : ''}`
  if ('senderOn' in condition) return `the sender is on ${listName(names, condition.senderOn)}${condition.counts ? ` (${COUNTS[condition.counts]})` : ''}`
  if ('every' in condition) return 'any message comes'
  if ('phrases' in condition || 'set' in condition) {
    const what = condition.set !== undefined
      ? `a phrase of ${names.phraseSets.find(s => s.id === condition.set)?.name ?? condition.set}`
      : oneOf((condition.phrases ?? []).map(quoted))
    const where = condition.where ? oneOf(condition.where.map(w => WHERE[w])) : 'the subject or text'
    return `${where} has ${what}${condition.whole === false ? ', also inside words' : ''}`
  }
  return ''
}

function exceptionWords(condition: Condition, names: Names): string {
  if ('sender' in condition) return `from ${entryWords(condition.sender)}`
  if ('senderOn' in condition) return `from ${listName(names, condition.senderOn)}`
  return `when ${conditionWords(condition, names)}`
}

/** A binding as one sentence. */
export function bindingSentence(binding: Pick<Binding, 'side' | 'stop' | 'protect' | 'counts' | 'owner' | 'must'>, names: Names, ownerName: string): string {
  const counts = binding.counts ?? (binding.owner.startsWith('person:') ? 'not fail' : 'pass')
  const what = binding.side === 'block' ? `block: ${stopWords(binding.stop!, names)}` : `allow: ${protectWords(binding.protect ?? HAZARDS)}, ${COUNTS[counts]}`
  return `For ${ownerName === 'organisation' ? 'the whole organisation' : ownerName}, ${what}${binding.must ? ', and nobody may soften it' : ''}.`
}
