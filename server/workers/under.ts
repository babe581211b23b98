import { decide, type Lane, type Message, type Ruling } from '#core'
import type { PolicyChange } from '#core/change'
import { pairOf } from '#core/rehearse'
import { indexedFor, openArchive, type WithEdition } from './archive-thread'
import type { Needs } from './mail'

/** A message that is to be decided under a policy that differs from the one in force. */
export interface ToDecide extends WithEdition {
  net: PolicyChange[]
  message: Message
  recipient: string
  /** ISO 8601 instant. */
  now: string
}

/** Decides one message as if the differences were in force, off the thread that serves people. */
export function decideUnderNet({ net, message, recipient, now, ...edition }: ToDecide): Promise<Ruling | Needs> {
  const indexed = indexedFor(edition)
  return Promise.resolve(indexed ? decide(message, recipient, pairOf(indexed, net).after, { now }) : { needs: edition.number })
}

/** Copies that are here, and policies that differ from the one in force, each by itself. */
export interface ToEnd extends WithEdition {
  nets: readonly PolicyChange[][]
  ids: readonly number[]
  /** ISO 8601 instant. */
  now: string
}

/** For each of the policies in which lanes the copies would end; those of which only a record is left are not among them. */
export async function endsUnderNets({ nets, ids, now, ...edition }: ToEnd): Promise<Lane[][] | Needs> {
  const indexed = indexedFor(edition)
  if (!indexed) return { needs: edition.number }
  const { archive } = await openArchive()
  const after = nets.map(net => pairOf(indexed, net).after)
  const ends = after.map((): Lane[] => [])
  // Copy by copy: what is looked up of a message is kept until the next.
  for (const { message, recipient } of await archive.messages(ids, indexed.compiled.policy.trust))
    if (message) after.forEach((policy, i) => ends[i]!.push(decide(message, recipient, policy, { now }).lane))
  return ends
}
