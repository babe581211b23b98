import { decide, isKeptAway, type FinalDecision } from '#core'
import type { PolicyChange } from '#core/change'
import { endsDifferently, pairOf, simulateCopy } from '#core/simulate'
import { claimsOf, decisionRow, stateByDecision } from '../copies/decision-rows'
import { indexedFor, openArchive, type WithEdition } from './archive-thread'
import type { Needs } from './mail'
import { asLaidHere } from './decide-under'

/** Copies that are decided anew after a change. */
export interface ToRedecide extends WithEdition {
  /** Differences that make another policy of the one active; the one before the change, or the one that it would be. */
  net: PolicyChange[]
  is: 'before' | 'after'
  ids: readonly number[]
  /** Of these it is told in any case. */
  always: readonly number[]
  now: string
}

/** A copy decided anew. Its rows are ready to be kept. */
export interface Redecided {
  id: number
  /** It ends elsewhere than before the change. */
  differs: boolean
  /** A protection of the change came too late: somebody else's stop stands. */
  tooLate: boolean
  decision: FinalDecision
  state: ReturnType<typeof stateByDecision>
  row: ReturnType<typeof decisionRow>
  claims: ReturnType<typeof claimsOf>
}

/**
 * Decides copies that are here anew, by a policy and by the one before a change of it. Those come back that end elsewhere, or
 * that the change would protect and does not. What would not have been taken goes to the bin.
 */
export async function redecide(asked: ToRedecide): Promise<Redecided[] | Needs> {
  const indexed = indexedFor(asked)
  if (!indexed) return { needs: asked.number }
  const { archive: mail } = await openArchive()
  const pair = pairOf(indexed, asked.net, asked.is === 'before')
  const always = new Set(asked.always)
  const out: Redecided[] = []
  for (const { id, message, recipient } of await mail.messages(asked.ids, indexed.compiled.policy.trust)) {
    if (!message) continue
    const both = simulateCopy(message, recipient, pair, asked.now)
    if (!both && !always.has(id)) continue
    const after = both?.after ?? decide(message, recipient, pair.after, { now: asked.now })
    const differs = both !== null && endsDifferently(both.before, after)
    const tooLate = both !== null && isKeptAway(after.lane) && after.reasons.some(r => r.outcome.kind === 'allowTooLate')
    if (!differs && !tooLate && !always.has(id)) continue
    const decision = asLaidHere(after)
    out.push({
      id,
      differs,
      tooLate,
      decision,
      state: stateByDecision(decision, message.content),
      row: decisionRow(decision, asked.now),
      claims: claimsOf(decision),
    })
  }
  return out
}
