import { decide, isDelivered, isKeptHere, type FinalDecision, type Lane, type Message, type Decision } from '#core'
import type { PolicyChange } from '#core/change'
import { pairOf, simulateEach } from '#core/simulate'
import { indexedFor, openArchive, type WithEdition } from './archive-thread'
import type { Needs } from './mail'

/** A message that is to be decided under a policy that differs from the active one. */
export interface ToDecide extends WithEdition {
  net: PolicyChange[]
  message: Message
  recipient: string
  /** ISO 8601 instant. */
  now: string
}

/** Decides one message as if the differences were active, off the thread that serves people. */
export function decideUnderNet({ net, message, recipient, now, ...edition }: ToDecide): Promise<Decision | Needs> {
  const indexed = indexedFor(edition)
  return Promise.resolve(indexed ? decide(message, recipient, pairOf(indexed, net).after, { now }) : { needs: edition.number })
}

/** Copies that are here, and policies that differ from the one active, each by itself. */
export interface ToEnd extends WithEdition {
  nets: readonly PolicyChange[][]
  ids: readonly number[]
  /** ISO 8601 instant. */
  now: string
}

/** What a policy that is not active would make of a copy. */
export interface Supposed {
  id: number
  decision: FinalDecision
}

/** Where a copy would end. */
export interface CopyEnd {
  id: number
  lane: Lane
}

/** A decision on a copy that is here: what would not have been taken goes to the bin. */
export function asLaidHere(decision: Decision): FinalDecision {
  const kept = isDelivered(decision.lane) || isKeptHere(decision.lane)
  return { ...decision, decidedLane: decision.lane, lane: kept ? decision.lane : 'bin' }
}

/** For each of the policies in which lanes the copies would end; those of which only a record is left are not among them. */
export function endsUnderNets(asked: ToEnd): Promise<CopyEnd[][] | Needs> {
  return underNets(asked, (id, { lane }) => ({ id, lane }))
}

/** The same, with which copies they are and why they would end there. */
export function decisionsUnderNets(asked: ToEnd): Promise<Supposed[][] | Needs> {
  return underNets(asked, (id, decision) => ({ id, decision: asLaidHere(decision) }))
}

/** For each of the policies in how many of the copies what differs finds something else; and how many could be read. */
export async function hitsUnderNets({ nets, ids, now, ...edition }: ToEnd): Promise<Hits | Needs> {
  const indexed = indexedFor(edition)
  if (!indexed) return { needs: edition.number }
  const { archive } = await openArchive()
  const pairs = nets.map(net => pairOf(indexed, net))
  const read = (await archive.messages(ids, indexed.compiled.policy.trust)).filter(c => c.message)
  const each = read.map(({ message, recipient }) => simulateEach(message!, recipient, pairs, now))
  return { hits: pairs.map((_, i) => each.filter(found => found[i] !== null).length), of: read.length }
}

/** How many of some copies each of several policies is about, that differ from the active one. */
export interface Hits {
  hits: number[]
  /** So many of the copies could be read. */
  of: number
}

async function underNets<T>(
  { nets, ids, now, ...edition }: ToEnd,
  result: (id: number, decision: Decision) => T,
): Promise<T[][] | Needs> {
  const indexed = indexedFor(edition)
  if (!indexed) return { needs: edition.number }
  const { archive } = await openArchive()
  const after = nets.map(net => pairOf(indexed, net).after)
  const ends = after.map((): T[] => [])
  // Copy by copy: what is looked up of a message is kept until the next.
  for (const { id, message, recipient } of await archive.messages(ids, indexed.compiled.policy.trust))
    if (message) after.forEach((policy, i) => ends[i]!.push(result(id, decide(message, recipient, policy, { now }))))
  return ends
}
