import type { Message } from '../message'
import type { Lane } from '../policy'
import { clauseKey, settling, type Looking } from './decide'
import type { ClauseRef, Context, Reason, Decision } from './types'

/** What would be of a copy if things stood otherwise. */
export interface WhatIf {
  /** Under the policy that was asked. */
  now: Decision
  /** Under the same without one of its clauses: each that made a claim, in the order of the reasons. */
  without: { clause: ClauseRef, lane: Lane, quarantine: string | null }[]
}

/** Where a copy would end under a policy, and where without each of the clauses that matched it and count. */
export function whatIf(message: Message, recipient: string, policy: Looking, context: Context): WhatIf {
  const settled = settling(message, recipient, policy, context)
  const now = settled([])
  const clauses = new Map(effectiveReasons(now.reasons).map(r => [clauseKey(r.clause), r.clause]))
  return {
    now,
    without: [...clauses.values()].map((clause) => {
      const { lane, quarantine } = settled([clause])
      return { clause, lane, quarantine }
    }),
  }
}

/** What of a clause that matched has no part in where the copy ends. */
const SAYS_NOTHING: ReadonlySet<string> = new Set(['notCounted', 'excepted', 'monitored'])

/** The reasons of clauses that have a part in where the copy ends, or would have if others were gone. */
export function effectiveReasons(reasons: readonly Reason[]): Reason[] {
  return reasons.filter(r => !SAYS_NOTHING.has(r.outcome.kind))
}
