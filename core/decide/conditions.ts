import type { Message, Place } from '../message'
import { entriesFor, entryCatches, type CompiledPolicy, type Condition, type Owner, type PhrasePlace } from '../policy'
import { findPhrase, plainView, type View } from '../text'
import { senderCounts, sendersOf } from './sender'
import type { Evidence, Lost } from './types'

/** What a condition found. `lenient` is true where it would hold if everything that matched had counted. */
export interface Found {
  holds: boolean
  lenient: boolean
  evidence: Evidence[]
  lost: Lost[]
}

/** One message under one policy: views of the text are made once and shared by all conditions. */
export interface Subject {
  message: Message
  compiled: CompiledPolicy
  now: string
  views: Map<number, View>
}

const NOTHING: Found = { holds: false, lenient: false, evidence: [], lost: [] }
const STOPPING_PLACES: readonly PhrasePlace[] = ['subject', 'own', 'quoted', 'hidden']
const SPARING_PLACES: readonly PhrasePlace[] = ['subject', 'own']
const MOST_SPANS = 20

export function newSubject(message: Message, compiled: CompiledPolicy, now: string): Subject {
  return { message, compiled, now, views: new Map() }
}

/**
 * Evaluates a condition. `spares` says that it works in favour of the copy (a protecting rule's condition, an exception
 * of a stopping rule): then only a verified From counts, and only words that the reader sees.
 */
export function evaluate(condition: Condition, subject: Subject, owner: Owner, spares: boolean): Found {
  if ('all' in condition) {
    const found = condition.all.map(c => evaluate(c, subject, owner, spares))
    return combine(found, found.length > 0 && found.every(f => f.holds), found.length > 0 && found.every(f => f.lenient))
  }
  if ('any' in condition) {
    const found = condition.any.map(c => evaluate(c, subject, owner, spares))
    return combine(found, found.some(f => f.holds), found.some(f => f.lenient))
  }
  if ('none' in condition) {
    const found = condition.none.map(c => evaluate(c, subject, owner, !spares))
    const holds = found.length > 0 && !found.some(f => f.holds)
    return { holds, lenient: holds, evidence: [], lost: found.filter(f => !f.holds && f.lenient).flatMap(f => f.lost) }
  }
  if ('every' in condition) return { holds: true, lenient: true, evidence: [{ kind: 'every' }], lost: [] }
  if ('sender' in condition || 'senderOn' in condition) return findSender(condition, subject, owner, spares)
  return findPhrases(condition, subject, spares)
}

function combine(found: Found[], holds: boolean, lenient: boolean): Found {
  const counted = found.filter(f => f.holds)
  return { holds, lenient, evidence: (holds ? counted : found.filter(f => f.lenient)).flatMap(f => f.evidence), lost: found.flatMap(f => f.lost) }
}

function findSender(condition: Extract<Condition, { sender: unknown } | { senderOn: unknown }>, subject: Subject, owner: Owner, spares: boolean): Found {
  const evidence: Evidence[] = []
  const lost: Lost[] = []
  for (const { on, address } of sendersOf(subject.message)) {
    if (spares && on !== 'from') continue
    for (const hit of senderHits(condition, subject, address)) {
      const one: Evidence = { kind: 'sender', on, address: address.key, entry: hit.entry, ...hit.list }
      if (hit.expired) lost.push({ why: 'expired', evidence: [one] })
      else if (spares && !senderCounts(subject.message, subject.compiled.policy, condition.counts, owner, hit.entry.kind)) lost.push({ why: 'not verified', evidence: [one] })
      else evidence.push(one)
    }
  }
  return { holds: evidence.length > 0, lenient: evidence.length + lost.length > 0, evidence: evidence.length ? evidence : lost.flatMap(l => l.evidence), lost: evidence.length ? [] : lost }
}

function senderHits(condition: Extract<Condition, { sender: unknown } | { senderOn: unknown }>, subject: Subject, address: Parameters<typeof entryCatches>[1]) {
  if ('sender' in condition) return entryCatches(condition.sender, address) ? [{ entry: condition.sender, list: {}, expired: false }] : []
  const list = subject.compiled.lists.get(condition.senderOn)
  if (!list?.list.on) return []
  return entriesFor(list, address).map(e => ({
    entry: { kind: e.kind, value: e.value },
    list: { list: list.list.id, listName: list.list.name },
    expired: isExpired(e.expires, subject.now),
  }))
}

/** True if the instant has been reached. */
export function isExpired(expires: string | undefined, now: string): boolean {
  return expires !== undefined && Date.parse(expires) <= Date.parse(now)
}

function findPhrases(condition: Extract<Condition, { phrases?: string[], set?: string }>, subject: Subject, spares: boolean): Found {
  const keys = subject.compiled.phraseKeys.get(condition.set ?? condition)
  if (!keys?.length) return NOTHING
  const places: readonly Place[] = condition.where ?? (spares ? SPARING_PLACES : STOPPING_PLACES)
  const counted: Evidence[] = []
  const hidden: Evidence[] = []
  subject.message.content.segments.forEach((segment, index) => {
    const counts = places.includes(segment.place)
    // Hidden words protect nobody, but the reasons say that they were there.
    if (!counts && !(spares && segment.place === 'hidden')) return
    let view = subject.views.get(index)
    if (!view) subject.views.set(index, view = plainView(segment.text))
    const into = counts ? counted : hidden
    for (const { phrase, key } of keys) {
      for (const span of findPhrase(view, key, condition.whole ?? true, MOST_SPANS)) {
        into.push({ kind: 'phrase', phrase, place: segment.place, segment: index, ...span })
      }
    }
  })
  const lost: Lost[] = !counted.length && hidden.length ? [{ why: 'hidden text', evidence: hidden }] : []
  return { holds: counted.length > 0, lenient: counted.length + hidden.length > 0, evidence: counted.length ? counted : hidden, lost }
}
