import { entriesFor, HAZARDS, ruleProtects, ruleStops, specificity, tierKey, tiersOf, type Binding, type Claim, type CompiledList, type Entry, type Rule } from '../policy'
import type { Address } from '../address'
import { evaluate, isExpired, type Subject } from './conditions'
import { senderCounts, sendersOf } from './sender'
import type { Lost, Match, SenderPlace } from './types'

/**
 * Every clause that matches this copy, in the one order in which claims stand: owner by owner; within an owner raised
 * rules, then lists with the more specific entry first, then the other rules.
 */
export function matchesInOrder(subject: Subject, recipient: Address): Match[] {
  const { compiled, message } = subject
  const out: Match[] = []
  for (const tier of tiersOf(compiled, recipient)) {
    const rules = compiled.rules.get(tierKey(tier))
    const add = (rule: Rule) => {
      const match = (rule.direction ?? 'inbound') === message.attempt.direction ? matchRule(rule, subject) : null
      if (match) out.push(match)
    }
    rules?.raised.forEach(add)
    out.push(...matchLists((compiled.bindings.get(tierKey(tier)) ?? []).filter(b => (b.binding.direction ?? 'inbound') === message.attempt.direction), subject))
    rules?.plain.forEach(add)
  }
  return out
}

function matchRule(rule: Rule, subject: Subject): Match | null {
  const protects = ruleProtects(rule)
  const found = evaluate(rule.when, subject, rule.owner, protects)
  if (!found.lenient) return null
  const exceptions = rule.except.map(c => evaluate(c, subject, rule.owner, ruleStops(rule)))
  const spared = exceptions.find(e => e.holds)
  const lost = isExpired(rule.expires, subject.now) ? 'expired' : found.holds ? null : found.lost[0]?.why ?? null
  if (!found.holds && lost === null) return null
  return {
    clause: { kind: 'rule', id: rule.id, name: rule.name },
    owner: rule.owner,
    must: rule.must === true,
    state: rule.state,
    claims: rule.claims,
    end: rule.end ?? null,
    evidence: found.evidence,
    lost,
    excepted: spared?.evidence ?? null,
    lostExceptions: [...exceptions.filter(e => !e.holds && e.lenient).flatMap(e => e.lost), ...(found.holds ? found.lost.filter(onlyUnderNone) : [])],
  }
}

// What was lost beside a condition that held all the same is worth telling only where it would have spared the copy.
function onlyUnderNone(lost: Lost): boolean {
  return lost.why !== 'hidden text'
}

interface EntryHit { binding: Binding, list: CompiledList, entry: Entry, on: SenderPlace, address: string }

function matchLists(bindings: { binding: Binding, list: CompiledList }[], subject: Subject): Match[] {
  const hits: EntryHit[] = []
  for (const { binding, list } of bindings) {
    const seen = new Set<string>()
    const look = (on: SenderPlace, address: Address | null) => {
      for (const entry of entriesFor(list, address)) {
        if (seen.has(entry.id)) continue
        seen.add(entry.id)
        hits.push({ binding, list, entry, on, address: address?.key ?? '' })
      }
    }
    const senders = sendersOf(subject.message).filter(s => binding.side === 'block' || s.on === 'from')
    if (!senders.length) look('envelope', null) // from nobody at all: "everyone" still means it
    for (const { on, address } of senders) look(on, address)
  }
  return hits.sort(byOrderOfLists).map(hit => listMatch(hit, subject))
}

function byOrderOfLists(a: EntryHit, b: EntryHit): number {
  const [kindA, lengthA] = specificity(a.entry)
  const [kindB, lengthB] = specificity(b.entry)
  return kindA - kindB || lengthA - lengthB
    || Number(a.on !== 'from') - Number(b.on !== 'from')
    || Number(a.binding.side === 'allow') - Number(b.binding.side === 'allow')
    || compareText(a.entry.id, b.entry.id)
    || compareText(a.binding.id, b.binding.id)
}

function compareText(a: string, b: string): number {
  return a < b ? -1 : a > b ? 1 : 0
}

function listMatch({ binding, list, entry, on, address }: EntryHit, subject: Subject): Match {
  const claim: Claim = binding.side === 'block' ? { stop: binding.stop! } : { protect: binding.protect ?? [...HAZARDS] }
  const counts = binding.side === 'block' || senderCounts(subject.message, subject.compiled.policy, binding.counts, binding.owner, entry.kind)
  return {
    clause: { kind: 'list', id: binding.id, name: list.list.name, list: list.list.id, entry: { id: entry.id, kind: entry.kind, value: entry.value } },
    owner: binding.owner,
    must: binding.must === true,
    state: binding.state,
    claims: [claim],
    end: null,
    evidence: [{ kind: 'sender', on, address, entry: { kind: entry.kind, value: entry.value } }],
    lost: isExpired(entry.expires, subject.now) ? 'expired' : counts ? null : 'not verified',
    excepted: null,
    lostExceptions: [],
  }
}
