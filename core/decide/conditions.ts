import type { Address } from '../address'
import type { Direction, Message } from '../message'
import { factHolds, type EntryText } from '../kinds'
import type { CompiledPolicy, Entry, Look, Node } from '../policy'
import { viewOf, viewText, type View } from '../text'
import { matchLook, type LookHits } from './looks'
import { isAt, type TextSpan } from './segments'
import { senderCounts, type SenderAt } from './sender'
import type { Evidence, Lost } from './types'

/** What a condition found. `lenient` is true where it would hold if everything that matched had counted. */
export interface Hit {
  holds: boolean
  lenient: boolean
  evidence: Evidence[]
  lost: Lost[]
}

/** An entry that caught a sender. */
export interface EntryHit extends SenderAt {
  entry: Pick<Entry, 'id' | 'kind' | 'value' | 'expires'>
}

/** How things are looked up: plainly, or by index. Both give the same hits in the same order. */
export interface Finder {
  /** Entries of a list that catch a sender, From first; each entry once. */
  listHits(list: string): EntryHit[]
  /** The same for one entry that stands in a condition. */
  entryHits(node: Extract<Node, { op: 'sender' }>): EntryHit[]
  lookHits(look: Look): LookHits
}

/** One copy at one stage of its decision. */
export interface Copy {
  message: Message
  recipient: Address
  /** Of this copy. */
  direction: Direction
  /** Which clauses are asked: those of the copy's direction, but internal mail is first asked as outbound. */
  stage: Direction
  /** ISO 8601 instant. */
  now: string
}

/** One copy under one policy. */
export interface Subject extends Copy {
  compiled: CompiledPolicy
  textSpans: TextSpan[]
  finder: Finder
}

/**
 * Evaluates a condition. Where it works in favour of the copy (a protecting rule's condition, an exception of a stopping
 * rule), only a verified From counts, and only words that the recipient sees.
 */
export function evaluate(node: Node, subject: Subject): Hit {
  switch (node.op) {
    case 'all': {
      const found = node.members.map(m => evaluate(m, subject))
      return combine(found, found.length > 0 && found.every(f => f.holds), found.length > 0 && found.every(f => f.lenient))
    }
    case 'any': {
      const found = node.members.map(m => evaluate(m, subject))
      return combine(
        found,
        found.some(f => f.holds),
        found.some(f => f.lenient),
      )
    }
    case 'none': {
      const found = node.members.map(m => evaluate(m, subject))
      const holds = found.length > 0 && !found.some(f => f.holds)
      return { holds, lenient: holds, evidence: [], lost: found.filter(f => !f.holds && f.lenient).flatMap(f => f.lost) }
    }
    case 'list': {
      const list = subject.compiled.lists.get(node.list)
      return list?.enabled
        ? findSender({ node, hits: subject.finder.listHits(node.list), list: { list: list.id, listName: list.name } }, subject)
        : NOTHING
    }
    case 'sender':
      return findSender({ node, hits: subject.finder.entryHits(node), list: {} }, subject)
    case 'phrases':
      return matchLook(node.look, subject.finder.lookHits(node.look), subject.textSpans)
    case 'expression':
      return findExpression(node, subject)
    case 'fact': {
      const shown = factHolds(node.fact, { ...subject, trust: subject.compiled.policy.trust, userNames: subject.compiled.userNames })
      return shown === null ? NOTHING : { holds: true, lenient: true, evidence: [{ kind: 'fact', fact: node.fact, shown }], lost: [] }
    }
  }
}

const NOTHING: Hit = { holds: false, lenient: false, evidence: [], lost: [] }

function combine(found: Hit[], holds: boolean, lenient: boolean): Hit {
  const counted = found.filter(f => f.holds)
  return {
    holds,
    lenient,
    evidence: (holds ? counted : found.filter(f => f.lenient)).flatMap(f => f.evidence),
    lost: found.flatMap(f => f.lost),
  }
}

interface SenderAsked {
  node: Extract<Node, { op: 'sender' } | { op: 'list' }>
  hits: EntryHit[]
  list: { list?: string, listName?: string }
}

function findSender({ node, hits, list }: SenderAsked, subject: Subject): Hit {
  const evidence: Evidence[] = []
  const lost: Lost[] = []
  for (const { on, address, entry } of hits) {
    if (node.exempts && on !== 'from' && on !== 'recipient') continue
    const one: Evidence = { kind: 'sender', on, address: address.key, entry: { kind: entry.kind, value: entry.value }, ...list }
    if (isExpired(entry.expires, subject.now)) lost.push({ why: 'expired', evidence: [one] })
    else if (node.exempts && !senderCounts(subject, node.counts, entry as EntryText))
      lost.push({ why: 'notVerified', evidence: [one] })
    else evidence.push(one)
  }
  return {
    holds: evidence.length > 0,
    lenient: evidence.length + lost.length > 0,
    evidence: evidence.length ? evidence : lost.flatMap(l => l.evidence),
    lost: evidence.length ? [] : lost,
  }
}

/** True if the instant has been reached. */
export function isExpired(expires: string | undefined, now: string): boolean {
  return expires !== undefined && Date.parse(expires) <= Date.parse(now)
}

const MAX_MATCHES = 20

function findExpression(node: Extract<Node, { op: 'expression' }>, subject: Subject): Hit {
  const counted: Evidence[] = []
  const hidden: Evidence[] = []
  subject.textSpans.forEach((textSpan, segment) => {
    const counts = isAt(node.places, textSpan)
    if (!counts && !(node.exempts && textSpan.place === 'hidden')) return
    const view = viewOf(textSpan.text, 'plain')
    const into = counts ? counted : hidden
    for (const [start, end] of expressionSpans(node, view)) {
      if (into.length === MAX_MATCHES) break
      into.push({
        kind: 'phrase',
        phrase: node.source,
        place: textSpan.place,
        ...(textSpan.label === undefined ? {} : { label: textSpan.label }),
        segment,
        start: view.startOf(start),
        end: view.startOf(end),
      })
    }
  })
  const lost: Lost[] = !counted.length && hidden.length ? [{ why: 'hiddenText', evidence: hidden }] : []
  return { holds: counted.length > 0, lenient: counted.length + hidden.length > 0, evidence: counted.length ? counted : hidden, lost }
}

function expressionSpans({ expression }: Extract<Node, { op: 'expression' }>, view: View): [number, number][] {
  const text = viewText(view).slice(0, expression.mostText)
  if (expression.literal !== null && !text.includes(expression.literal)) return []
  const matcher = expression.pattern.matcher(text)
  const out: [number, number][] = []
  while (out.length < MAX_MATCHES && matcher.find()) if (matcher.end() > matcher.start()) out.push([matcher.start(), matcher.end()])
  return out
}
