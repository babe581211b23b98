import { addTo } from '../add-to'
import { entryCatches } from '../kinds'
import isSame from 'fast-deep-equal'
import { makeAddress } from '../address'
import { prefilterKeysOf } from '../lookup'
import {
  compilePolicy,
  groupMembers,
  isOverriding,
  ruleStops,
  sendersOfCondition,
  spelledOut,
  valueKey,
  type CompiledRule,
  type Condition,
  type Policy,
  type Rule,
} from '../policy'
import { walk } from './walk'
import type { Finding } from './types'

/** What is questionable in how rules follow each other, and what every message wakes. */
export function checkOrder(policy: Policy): Finding[] {
  const out: Finding[] = []
  const compiled = compilePolicy(policy)
  for (const rule of compiled.rules) {
    if (!prefilterKeysOf(rule) && !('every' in rule.rule.when))
      out.push({
        kind: 'slow rule',
        clause: { kind: 'rule', id: rule.rule.id, name: rule.rule.name },
        evidence: 'it is checked for every message: none of its conditions can be looked up first',
        fix: 'Add a phrase or a sender that must always match, if there is one.',
      })
  }
  const covered = new Set<string>()
  for (const { earlier, later } of coveredRules(compiled.rules.filter(r => r.rule.state === 'enabled'))) {
    const clause = { kind: 'rule' as const, id: later.id, name: later.name }
    covered.add(later.id)
    if (earlier.end) {
      out.push({
        kind: 'never reached',
        clause,
        evidence: `rule “${earlier.name}” matches the same mail and stops later rules`,
        fix: `Move it before rule “${earlier.name}”, or disable it.`,
        about: { earlier: earlier.id },
      })
    }
    else {
      const same = isSame(
        earlier.claims.find(c => 'stop' in c),
        later.claims.find(c => 'stop' in c),
      )
      out.push({
        kind: 'covered by an earlier rule',
        clause,
        evidence:
          `rule “${earlier.name}” comes first and matches all the mail that this rule matches, `
          + (same ? 'with the same action' : 'with another action'),
        fix: same ? 'Disable it.' : `Move it before rule “${earlier.name}”, or make one of the two narrower.`,
        about: same ? {} : { earlier: earlier.id },
      })
    }
  }
  for (const { first, again } of doubledRules(policy.rules)) {
    if (!covered.has(again.id))
      out.push({
        kind: 'duplicate rule',
        clause: { kind: 'rule', id: again.id, name: again.name },
        evidence: `rule “${first.name}” has the same conditions and actions`,
        fix: 'Disable one of the two.',
      })
  }
  return out
}

/** Rules of one owner that say the same under two names, each with the first of them. */
function* doubledRules(rules: readonly Rule[]): Generator<{ first: Rule, again: Rule }> {
  const seen = new Map<string, Rule>()
  for (const rule of rules.filter(r => r.state !== 'disabled')) {
    const { owner, mandatory, direction = 'inbound', when, except, claims, end } = rule
    const key = valueKey([owner, mandatory === true, direction, when, except, claims, end ?? null])
    const first = seen.get(key)
    if (first) yield { first, again: rule }
    else seen.set(key, rule)
  }
}

/** Rules that come too late, each with the first rule that has been there before: it ends, or both stop. */
function* coveredRules(rules: readonly CompiledRule[]): Generator<{ earlier: Rule, later: Rule }> {
  // One condition can only cover another if both look for one same thing; so ten thousand rules need not be compared with each other.
  const byAtom = new Map<string, { rank: number, rule: Rule }[]>()
  for (const [rank, { rule, tier }] of rules.entries()) {
    const place = valueKey([tier, isOverriding(rule), rule.direction ?? 'inbound'])
    const candidates = new Map([...atomsToAsk(rule.when)].flatMap(atom => byAtom.get(`${place} ${atom}`) ?? []).map(c => [c.rank, c.rule]))
    const first = [...candidates]
      .sort(([a], [b]) => a - b)
      .find(([, earlier]) => (earlier.end || (ruleStops(earlier) && ruleStops(rule))) && covers(earlier.when, rule.when))
    if (first) yield { earlier: first[1], later: rule }
    if (rule.except.length || rule.expires) continue
    for (const atom of new Set(atomsOf(rule.when))) addTo(byAtom, `${place} ${atom}`, { rank, rule })
  }
}

/** Under any of these a condition must be asked for another one that it may cover; "*" is asked for all. */
function* atomsOf(condition: Condition): Generator<string> {
  for (const c of walk(condition)) {
    if (groupMembers(c)) continue
    if ('phrases' in c && c.phrases) for (const p of c.phrases) yield valueKey(p)
    else if ('every' in c) yield '*'
    else if ('sender' in c)
      for (const { kind, value } of sendersOfCondition(c)) yield kind === 'pattern' || kind === 'words' || kind === 'contains' ? '*' : `${kind} ${value}`
    else yield valueKey(c)
  }
  yield valueKey(condition)
}

function* atomsToAsk(condition: Condition): Generator<string> {
  yield '*'
  yield* atomsOf(condition)
  for (const c of walk(condition)) {
    if (!('sender' in c)) continue
    for (const { kind, value } of sendersOfCondition(c)) {
      if (kind !== 'address') continue
      const domain = value.slice(value.lastIndexOf('@') + 1)
      yield `domain ${domain}`
      const labels = domain.split('.')
      for (let i = 0; i < labels.length; i++) yield `domainAndSubdomains ${labels.slice(i).join('.')}`
    }
  }
}

/** True if whatever meets `narrow` surely meets `wide`: the same, fewer demands, or more phrases for the same place. */
function covers(wideSaid: Condition, narrowSaid: Condition): boolean {
  const [wide, narrow] = [spelledOut(wideSaid), spelledOut(narrowSaid)]
  if ('every' in wide || isSame(wide, narrow)) return true
  if ('all' in narrow && !('all' in wide)) return narrow.all.some(m => covers(wide, m))
  if ('all' in wide) return wide.all.every(m => covers(m, narrow))
  if ('any' in wide) return wide.any.some(m => covers(m, narrow))
  if ('any' in narrow) return narrow.any.every(m => covers(wide, m))
  if ('phrases' in wide && wide.phrases && 'phrases' in narrow && narrow.phrases) {
    const { phrases: a, ...lookA } = wide
    const { phrases: b, ...lookB } = narrow
    return isSame(lookA, lookB) && lookA.minimum === undefined && b.every(p => a.some(q => isSame(p, q)))
  }
  if ('sender' in wide && 'sender' in narrow && wide.counts === narrow.counts) {
    const [[one], [other]] = [sendersOfCondition(wide), sendersOfCondition(narrow)]
    return other!.kind === 'address' && entryCatches(one!, { address: makeAddress(other!.value), listId: null, client: null })
  }
  return false
}
