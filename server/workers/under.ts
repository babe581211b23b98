import { decide, type Message, type Ruling } from '#core'
import type { PolicyChange } from '#core/change'
import { pairOf } from '#core/rehearse'
import { indexedFor, type WithEdition } from './archive-thread'
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
