import { addTo } from '../add-to'
import { specificity } from '../kinds'
import { countsOf, HAZARDS, type Assignment, type Claim, type CompiledPolicy, type CompiledRule, type List } from '../policy'
import { evaluate, isExpired, type EntryHit, type Subject } from './conditions'
import { senderCounts } from './sender'
import type { Lost, Match } from './types'

/** Which clauses are looked at: all of them, or those that an index has woken. */
export interface Candidates {
  /** In people's order. */
  rules: readonly CompiledRule[]
  assignments(tier: string): readonly { assignment: Assignment, list: List }[]
  anyAssignment: boolean
}

/** Every clause of the policy. */
export function allClauses(compiled: CompiledPolicy): Candidates {
  return { rules: compiled.rules, assignments: tier => compiled.assignments.get(tier) ?? [], anyAssignment: compiled.assignments.size > 0 }
}

/**
 * Every clause that matches this copy, in the one order in which claims stand: owner by owner; within an owner raised
 * rules, then lists with the more specific entry first, then the other rules.
 * @param tiers of the person whose clauses stand over the copy: its recipient, or outbound its sender
 */
export function matchesInOrder(subject: Subject, tiers: readonly string[], candidates: Candidates): Match[] {
  const { stage } = subject
  if (!candidates.rules.length && !candidates.anyAssignment) return []
  const byTier = new Map<string, CompiledRule[]>()
  for (const rule of candidates.rules) {
    if ((rule.rule.direction ?? 'inbound') !== stage) continue
    addTo(byTier, rule.tier, rule)
  }
  const out: Match[] = []
  for (const key of tiers) {
    const rules = byTier.get(key) ?? []
    for (const rule of rules) if (rule.overridesLists) pushRule(rule, subject, out)
    out.push(
      ...matchLists(
        candidates.assignments(key).filter(b => (b.assignment.direction ?? 'inbound') === stage),
        subject,
      ),
    )
    for (const rule of rules) if (!rule.overridesLists) pushRule(rule, subject, out)
  }
  return out
}

function pushRule(compiled: CompiledRule, subject: Subject, out: Match[]): void {
  const { rule } = compiled
  const found = evaluate(compiled.when, subject)
  if (!found.lenient) return
  const lost = isExpired(rule.expires, subject.now) ? 'expired' : found.holds ? null : (found.lost[0]?.why ?? null)
  if (!found.holds && lost === null) return
  const exceptions = compiled.except.map(c => evaluate(c, subject))
  out.push({
    clause: { kind: 'rule', id: rule.id, name: rule.name },
    owner: rule.owner,
    mandatory: rule.mandatory === true,
    state: rule.state,
    claims: rule.claims,
    end: rule.end ?? null,
    evidence: found.evidence,
    lost,
    excepted: exceptions.find(e => e.holds)?.evidence ?? null,
    lostExceptions: [
      ...exceptions.filter(e => !e.holds && e.lenient).flatMap(e => e.lost),
      ...(found.holds ? found.lost.filter(onlyUnderNone) : []),
    ],
  })
}

// What was lost beside a condition that held all the same is worth telling only where it would have exempted the copy.
function onlyUnderNone(lost: Lost): boolean {
  return lost.why !== 'hiddenText'
}

interface BoundHit extends EntryHit {
  assignment: Assignment
  list: List
}

function matchLists(assignments: readonly { assignment: Assignment, list: List }[], subject: Subject): Match[] {
  const hits: BoundHit[] = []
  for (const { assignment, list } of assignments) {
    for (const hit of subject.finder.listHits(list.id)) {
      if (assignment.side === 'block' || hit.on === 'from' || hit.on === 'recipient') hits.push({ ...hit, assignment, list })
    }
  }
  return hits.sort(byOrderOfLists).map(hit => listMatch(hit, subject))
}

function byOrderOfLists(a: BoundHit, b: BoundHit): number {
  const [kindA, withinA] = specificity(a.entry)
  const [kindB, withinB] = specificity(b.entry)
  return (
    kindA - kindB ||
    withinA - withinB ||
    Number(a.on !== 'from') - Number(b.on !== 'from') ||
    Number(a.assignment.side === 'allow') - Number(b.assignment.side === 'allow') ||
    // The list's own id first: that of a new entry is made when it is saved, and its impact is seen before.
    compareText(a.assignment.id, b.assignment.id) ||
    compareText(a.entry.id, b.entry.id)
  )
}

function compareText(a: string, b: string): number {
  return a < b ? -1 : a > b ? 1 : 0
}

function listMatch({ assignment, list, entry, on, address }: BoundHit, subject: Subject): Match {
  const claim: Claim = assignment.side === 'block' ? { stop: assignment.stop! } : { protect: assignment.protect ?? [...HAZARDS] }
  const counts = assignment.side === 'block' || senderCounts(subject, countsOf(assignment), entry)
  return {
    clause: {
      kind: 'list',
      id: assignment.id,
      name: list.name,
      list: list.id,
      entry: { id: entry.id, kind: entry.kind, value: entry.value },
    },
    owner: assignment.owner,
    mandatory: assignment.mandatory === true,
    state: assignment.state,
    claims: [claim],
    end: null,
    evidence: [{ kind: 'sender', on, address: address.key, entry: { kind: entry.kind, value: entry.value } }],
    lost: isExpired(entry.expires, subject.now)
      ? 'expired'
      : !counts
          ? 'notVerified'
          : neverRefused(claim, subject)
            ? 'neverRefused'
            : null,
    excepted: null,
    lostExceptions: [],
  }
}

// Bounces and mail to postmaster must get through to somebody (RFC 5321 4.5.1, 6.1).
function neverRefused(claim: Claim, { message, recipient }: Subject): boolean {
  return (
    'stop' in claim &&
    claim.stop.to === 'refuse' &&
    (message.attempt.envelope.mailFrom === '' || recipient.keyWithoutTag.startsWith('postmaster@'))
  )
}
