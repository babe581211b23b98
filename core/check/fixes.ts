import type { PolicyChange } from '../change'
import { entryKey } from '../kinds'
import {
  canVerifySenders,
  groupMembers,
  phrasesWithout,
  replacedLeaves,
  withoutPhrases,
  type Assignment,
  type Claim,
  type Condition,
  type Policy,
  type Rule,
} from '../policy'
import { nestedPhrases } from './rules'
import type { Finding } from './types'

const DAYS_90 = 90 * 24 * 60 * 60 * 1000

/**
 * The changes that fix what a check found, or null where only a person can say what is meant. Applied, the finding is gone.
 * What they do to mail is found out by simulating them.
 * @param policy the one that was checked; its lists may come without entries
 * @param now ISO 8601 instant
 */
export function fixOf(policy: Policy, finding: Finding, now: string): PolicyChange[] | null {
  switch (finding.clause.kind) {
    case 'list':
      return fixList(policy, finding)
    case 'phraseSet':
      return fixSet(policy, finding)
    case 'rule': {
      const rule = policy.rules.find(r => r.id === finding.clause.id)
      return rule ? fixRule(policy, rule, finding, now) : null
    }
  }
}

function fixList(policy: Policy, { kind, clause, about }: Finding): PolicyChange[] | null {
  const assignment = policy.assignments.find(b => b.id === about?.assignment)
  if (kind === 'not confirmed')
    return assignment?.stop ? [{ type: 'put', kind: 'assignment', value: { ...assignment, stop: { to: 'bin' } } }] : null
  const entry = about?.entry
  if (kind === 'counts even if not verified' && assignment && !entry) return [verifiedOnly(assignment)]
  if (!entry) return null
  const out: PolicyChange[] = [{ type: 'remove', kind: 'entries', list: clause.id, entries: [{ kind: entry.kind, value: entry.value }] }]
  switch (kind) {
    case 'entry has no effect':
      // What could count as soon as senders are verified stays.
      return canVerifySenders(policy) ? out : null
    case 'counts even if not verified':
      return assignment && !policy.trust.ownDomains.includes(entry.value) && canVerifySenders(policy)
        ? [verifiedOnly(assignment)]
        : out
    case 'exception expires soon':
      return [{ type: 'put', kind: 'entries', list: clause.id, entries: [{ kind: entry.kind, value: entry.value }] }]
    case 'wide network':
      return null
    default:
      return out
  }
}

function verifiedOnly({ counts: _, ...assignment }: Assignment): PolicyChange {
  return { type: 'put', kind: 'assignment', value: assignment }
}

function withoutCounts(c: Condition): Condition {
  if (!('counts' in c)) return c
  const { counts: _, ...rest } = c
  return rest as Condition
}

function fixSet(policy: Policy, { kind, clause, about }: Finding): PolicyChange[] | null {
  const set = policy.phraseSets.find(s => s.id === clause.id)
  if (!set || kind !== 'phrase inside another' || about?.phrase === undefined) return null
  return [{ type: 'put', kind: 'phraseSet', value: { ...set, phrases: phrasesWithout(set.phrases, new Set([about.phrase])) } }]
}

function fixRule(policy: Policy, rule: Rule, { kind, about }: Finding, now: string): PolicyChange[] | null {
  const put = (change: Partial<Rule>): PolicyChange[] => [{ type: 'put', kind: 'rule', value: { ...rule, ...change } }]
  switch (kind) {
    case 'can never match':
    case 'expired':
    case 'duplicate rule':
    case 'no such mail accepted':
    case 'unused':
      return put({ state: 'disabled' })
    case 'deletes permanently, never monitored':
      return put({ state: 'monitor' })
    case 'counts even if not verified':
      return put({
        when: replacedLeaves(rule.when, withoutCounts)!,
        except: rule.except.map(c => replacedLeaves(c, withoutCounts)!),
      })
    case 'not confirmed':
      return put({ claims: rule.claims.map((c): Claim => ('stop' in c ? { stop: { to: 'bin' } } : c)) })
    case 'due for review':
      return put({ reviewOn: new Date(Date.parse(now) + DAYS_90).toISOString() })
    case 'never reached':
    case 'covered by an earlier rule':
      return about?.earlier === undefined ? put({ state: 'disabled' }) : rankedBefore(policy, rule, about.earlier)
    case 'phrase matches wanted mail':
      return withWhen(rule, replacedLeaves(rule.when, c => pruned(c, about?.phrase)))
    case 'phrase inside another': {
      const prune = (c: Condition) => replacedLeaves(c, leaf => (isNestedIn(leaf, about?.phrase) ? pruned(leaf, about?.phrase) : leaf))
      const except = rule.except.map(prune)
      const when = prune(rule.when)
      return when && except.every(e => e !== null) ? put({ when, except }) : null
    }
    case 'uses a disabled list': {
      if (about?.none) return null
      const except = rule.except.map(c => withoutOff(policy, c)).filter(c => c !== null)
      return except.some(c => asksOff(policy, c)) ? null : put({ except })
    }
    default:
      return null
  }
}

/** The owner's rules with one of them put before another. */
function rankedBefore(policy: Policy, rule: Rule, earlier: string): PolicyChange[] {
  const own = policy.rules.filter(r => r.owner === rule.owner).map(r => r.id)
  const others = own.filter(id => id !== rule.id)
  return [{ type: 'order', kind: 'rule', owner: rule.owner, ids: others.toSpliced(others.indexOf(earlier), 0, rule.id) }]
}

function withWhen(rule: Rule, when: Condition | null): PolicyChange[] | null {
  return when && when !== rule.when ? [{ type: 'put', kind: 'rule', value: { ...rule, when } }] : null
}

function isNestedIn(c: Condition, phrase: string | undefined): boolean {
  return 'phrases' in c && c.phrases !== undefined && nestedPhrases(c).some(f => f.about?.phrase === phrase)
}

function pruned(c: Condition, phrase: string | undefined): Condition | null {
  return phrase === undefined ? c : withoutPhrases(c, new Set([phrase]))
}

function asksOff(policy: Policy, c: Condition): boolean {
  return 'senderOn' in c ? withoutOff(policy, c) === null : (groupMembers(c)?.some(m => asksOff(policy, m)) ?? false)
}

// What asks a list that is off exempts nobody, and can go; under "none" it is the other way round, and only a person can say.
function withoutOff(policy: Policy, c: Condition): Condition | null {
  if ('senderOn' in c) return policy.lists.find(l => l.id === c.senderOn)?.enabled === false ? null : c
  if (!('all' in c || 'any' in c)) return c
  const now = groupMembers(c)!.map(m => withoutOff(policy, m))
  if ('all' in c) return now.some(m => m === null) ? null : { all: now as Condition[] }
  const left = now.filter(m => m !== null)
  return left.length ? { any: left } : null
}

/** Whether two findings say the same of the same thing. */
export function sameFinding(a: Finding, b: Finding): boolean {
  const key = ({ kind, clause, about }: Finding) =>
    [
      kind,
      clause.kind,
      clause.id,
      clause.entry ?? '',
      about?.entry ? entryKey(about.entry) : '',
      about?.assignment ?? '',
      about?.phrase ?? '',
      about?.none ?? '',
    ].join('\n')
  return key(a) === key(b)
}
