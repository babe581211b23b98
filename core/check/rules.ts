import { entryKindOf, entryWords } from '../kinds'
import {
  canVerifySenders,
  countsOf,
  groupMembers,
  phraseText,
  refersToSet,
  ruleProtects,
  ruleStops,
  sendersOfCondition,
  type Near,
  type Condition,
  type PhraseItem,
  type PhraseSet,
  type Policy,
  type Rule,
} from '../policy'
import { phraseKeys } from '../text'
import { counted, dayWords, numberWords } from '../wording'
import { walk } from './walk'
import { LAX } from './lists'
import { noSuchMail } from './accepted'
import { checkUse } from './unused'
import { notConfirmed } from './not-confirmed'
import type { CheckContext, Finding, FindingKind } from './types'

const TOO_BROAD = 1 / 50
/** Of fewer wanted copies nothing is said. */
const MIN_WANTED = 50

/** What is questionable in the rules and the phrase sets, each by itself. */
export function checkRules(policy: Policy, context: CheckContext): Finding[] {
  const peopled = listsWithEntries(policy, context)
  return [
    ...policy.phraseSets.flatMap(set => checkSet(set, policy)),
    ...policy.rules.flatMap(rule => checkRule(rule, policy, context, peopled)),
  ]
}

function checkSet(set: PhraseSet, policy: Policy): Finding[] {
  const clause = { kind: 'phraseSet' as const, id: set.id, name: set.name }
  const out: Finding[] = []
  if (!set.phrases.length && policy.rules.some(r => refersToSet(r, set.id)))
    out.push({
      kind: 'can never match',
      clause,
      evidence: 'it has no phrases, but a rule uses it',
      fix: 'Add a phrase, or remove the set from the rule.',
    })
  return [...out, ...nestedPhrases(set).map(f => ({ ...f, clause }))]
}

function checkRule(rule: Rule, policy: Policy, context: CheckContext, peopled: ReadonlySet<string>): Finding[] {
  if (rule.state === 'disabled') return []
  const out: Finding[] = []
  const add = (kind: FindingKind, evidence: string, fix: string, about?: Finding['about']) =>
    out.push({ kind, clause: { kind: 'rule', id: rule.id, name: rule.name }, evidence, fix, ...(about ? { about } : {}) })
  const never = whyNever(rule.when, policy, peopled)
  if (never) add('can never match', never, 'Change the condition, or disable the rule.')
  if (rule.expires && Date.parse(rule.expires) <= Date.parse(context.now))
    add('expired', `it expired on ${dayWords(rule.expires, 'UTC')}`, 'Disable it, or set a new expiry date.')
  if (rule.reviewOn && Date.parse(rule.reviewOn) <= Date.parse(context.now))
    add(
      'due for review',
      `its review date was ${dayWords(rule.reviewOn, 'UTC')}`,
      'Look at its statistics. If they are good, set the next review date to 90 days from now.',
    )
  const stop = rule.claims.find(c => 'stop' in c)
  if (
    rule.state === 'enabled' &&
    stop &&
    'stop' in stop &&
    (stop.stop.to === 'erase' || stop.stop.to === 'discard') &&
    !context.watched?.has(rule.id)
  )
    add(
      'deletes permanently, never monitored',
      `it ${stop.stop.to === 'discard' ? 'discards mail' : 'deletes mail permanently'} and was never “monitor only”`,
      'Set it to “monitor only” for a while first.',
    )
  const none = noSuchMail(rule.direction, context)
  if (none) add(none.kind, none.evidence, none.fix)
  const lapsed = notConfirmed(stop && 'stop' in stop ? stop.stop : undefined, 'the rule last matched more mail')
  if (lapsed) add('not confirmed', lapsed.evidence, lapsed.fix)
  for (const condition of [rule.when, ...rule.except]) {
    for (const inner of walk(condition)) {
      if ('phrases' in inner && inner.phrases) for (const f of nestedPhrases(inner)) add(f.kind, f.evidence, f.fix, f.about)
    }
  }
  if (stop)
    for (const { phrase, words } of broadPhrases(rule, policy, context))
      add('phrase matches wanted mail', words, 'Remove it, make it longer, or match it only near other words.', { phrase })
  for (const condition of rule.except)
    for (const inner of walk(condition)) {
      if ('senderOn' in inner && policy.lists.find(l => l.id === inner.senderOn)?.enabled === false)
        add(
          'uses a disabled list',
          'its exception uses a disabled list, so the rule matches more mail',
          'Remove the exception, or enable the list.',
        )
    }
  for (const inner of walk(rule.when))
    if ('none' in inner)
      for (const member of inner.none)
        for (const leaf of walk(member)) {
          if ('senderOn' in leaf && policy.lists.find(l => l.id === leaf.senderOn)?.enabled === false)
            add(
              'uses a disabled list',
              'a “none of these” condition uses a disabled list, so the rule matches more mail',
              'Enable the list, or remove it from the rule.',
              { none: true },
            )
        }
  const favouring = [...favouringSenders(rule)]
  if (canVerifySenders(policy) && favouring.some(c => countsOf({ ...rule, counts: c.counts }) !== 'verified'))
    add('counts even if not verified', LAX.evidence, LAX.fix)
  for (const c of favouring) {
    if (countsOf({ ...rule, counts: c.counts }) !== 'verified') continue
    if (!canVerifySenders(policy)) {
      add('sender can never count', 'only verified senders count, and no trusted relay that verifies senders is configured', ADD_RELAY)
      break
    }
    for (const entry of 'sender' in c ? sendersOfCondition(c) : [])
      if (!entryKindOf(entry.kind).verifiable(entry.value))
        add(
          'sender can never count',
          `only verified senders count, and ${entryWords(entry)} names no domain that could be verified`,
          'Enter the address or the domain.',
          { entry },
        )
  }
  checkUse(context, rule.id, text => add('unused', text, 'Disable it, or delete it.'))
  return out
}

const ADD_RELAY = 'Add the relay in Settings.'

type SenderCondition = Extract<Condition, { sender: unknown } | { senderOn: string }>

/** The sender conditions of a rule that work in favour of mail: only there it matters which senders count. */
function favouringSenders({ claims, when, except, direction }: Rule): SenderCondition[] {
  // Nobody forges to whom a message goes.
  if (direction === 'outbound') return []
  const within = (c: Condition, favours: boolean): SenderCondition[] => {
    if ('sender' in c || 'senderOn' in c) return favours ? [c] : []
    return (groupMembers(c) ?? []).flatMap(m => within(m, 'none' in c ? !favours : favours))
  }
  return [...within(when, ruleProtects({ claims })), ...except.flatMap(c => within(c, ruleStops({ claims })))]
}

interface Phrases {
  phrases: readonly PhraseItem[]
  minimum?: number
  near?: Near
}

/** Phrases of which each copy with them has a shorter one as well, which is enough. */
export function nestedPhrases({ phrases, minimum, near }: Phrases): Pick<Finding, 'kind' | 'evidence' | 'fix' | 'about'>[] {
  // Where phrases are weighed together, the longer one adds its weight; what needs company does not speak for what does not; and the
  // longer one reaches farther towards its company.
  if (minimum !== undefined || near?.within !== undefined) return []
  const alone = phrases.filter(p => typeof p === 'string' || !p.near)
  return nested(alone.map(phraseText)).map(([a, b]) => ({
    kind: 'phrase inside another',
    evidence: `“${b}” contains “${a}”, so the longer one adds nothing`,
    fix: `Remove “${b}”.`,
    about: { phrase: b },
  }))
}

/** Phrases that are enough by themselves for the rule to stop a copy, and that stand in many a wanted one. */
function* broadPhrases(rule: Rule, policy: Policy, { wantedHits }: CheckContext): Generator<{ phrase: string, words: string }> {
  const wanted = wantedHits?.wanted.get(rule.owner) ?? 0
  if (!wantedHits || wanted < MIN_WANTED) return
  for (const phrase of enoughAlone(rule.when, policy)) {
    const hits = wantedHits.byPhrase.get(phraseHitKey(rule.id, phrase)) ?? 0
    if (hits / wanted > TOO_BROAD)
      yield { phrase, words: `“${phrase}” was found in ${numberWords(hits)} of ${counted(wanted, 'wanted message')}` }
  }
}

/** Under what the hits of a rule's phrase are counted. */
export function phraseHitKey(rule: string, phrase: string): string {
  return `${rule} ${phrase}`
}

function* enoughAlone(c: Condition, policy: Policy): Generator<string> {
  if ('any' in c || ('all' in c && c.all.length === 1)) for (const member of groupMembers(c)!) yield* enoughAlone(member, policy)
  if (!('phrases' in c || 'set' in c)) return
  const set = policy.phraseSets.find(s => s.id === c.set)
  const minimum = c.minimum ?? set?.minimum
  if (c.near) return
  for (const item of c.phrases ?? set?.phrases ?? []) {
    if (typeof item === 'string' ? (minimum ?? 0) <= 1 : !item.near && (minimum ?? 0) <= (item.weight ?? 1)) yield phraseText(item)
  }
}

function listsWithEntries({ lists }: Policy, { entries }: CheckContext): Set<string> {
  const peopled = new Set(lists.filter(l => l.entries.length).map(l => l.id))
  for (const list of new Set(entries?.data.lists.subarray(0, entries.data.count))) peopled.add(lists[list]!.id)
  return peopled
}

function soleAddress(c: Extract<Condition, { sender: unknown }>): string[] {
  const [one, another] = sendersOfCondition(c)
  return one!.kind === 'address' && !another ? [one!.value] : []
}

function whyNever(c: Condition, policy: Policy, peopled: ReadonlySet<string>): string | null {
  if ('all' in c) {
    const froms = c.all.flatMap(m => ('sender' in m ? soleAddress(m) : []))
    if (new Set(froms).size > 1) return `one message cannot come from ${froms.join(' and ')}`
    const bounds = c.all.flatMap(m => ('size' in m ? [m.size] : []))
    if (Math.max(...bounds.map(b => b.atLeast ?? 0)) > Math.min(...bounds.map(b => b.atMost ?? Infinity)))
      return 'its size conditions exclude each other'
    return c.all.map(m => whyNever(m, policy, peopled)).find(w => w !== null) ?? null
  }
  if ('any' in c) {
    const why = c.any.map(m => whyNever(m, policy, peopled))
    return why.every(w => w !== null) ? (why[0] ?? null) : null
  }
  if ('senderOn' in c) {
    const list = policy.lists.find(l => l.id === c.senderOn)
    if (!list?.enabled) return `list “${list?.name ?? c.senderOn}” is disabled`
    return peopled.has(list.id) ? null : `list “${list.name}” has no entries`
  }
  if ('set' in c && c.set !== undefined)
    return policy.phraseSets.find(s => s.id === c.set)?.phrases.length ? null : 'its phrase set has no phrases'
  if ('size' in c && (c.size.atLeast ?? 0) > (c.size.atMost ?? Infinity)) return 'its smallest size is larger than its largest size'
  if ('date' in c && c.date.before && c.date.after && c.date.before <= c.date.after) return 'its end date is before its start date'
  if ('phrases' in c && c.phrases) {
    const weight = c.phrases.reduce<number>((sum, p) => sum + (typeof p === 'string' ? 1 : (p.weight ?? 1)), 0)
    if (c.minimum !== undefined && weight < c.minimum)
      return `all its phrases together score ${numberWords(weight)}, less than the minimum of ${numberWords(c.minimum)}`
  }
  return null
}

function nested(texts: readonly string[]): [string, string][] {
  const keys = texts.map(t => ({ text: t, key: ` ${phraseKeys(t, 'plain')[0]?.key ?? ''} ` }))
  const out: [string, string][] = []
  if (keys.length > 500) return out // a matter of its own for a set of that size
  for (const a of keys)
    for (const b of keys) if (a !== b && b.key.length > a.key.length && b.key.includes(a.key)) out.push([a.text, b.text])
  return out
}
