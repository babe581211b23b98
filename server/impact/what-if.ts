import { isOthers, personOwner, decisionFor, type ClauseRef, type Lane } from '#core'
import { sentenceFor } from '../access/others-clauses'
import type { Actor } from '../access/roles'
import { invalid } from '../platform/problem'
import { activePolicy } from '../policy/active-policy'
import { findCopy } from '../copies/copies'
import { readAndAsk } from '../intake/reading'
import { storedMessage } from '../intake/stored-message'

/** What would be of a copy if things stood otherwise; nothing is changed. */
export interface WhatIfView {
  /** Under the active policy now. */
  now: { version: number, lane: Lane, quarantine: string | null, sentence: string }
  /** Under it without a clause: each that has a part in where the copy ends, but for colleagues' own. */
  without: { clause: Pick<ClauseRef, 'kind' | 'id'>, lane: Lane, quarantine: string | null }[]
}

/** Where a copy would end under the active policy, and without each of its reason lines. */
export async function whatIfOf(actor: Actor, id: number): Promise<WhatIfView> {
  const copy = await findCopy(actor, id)
  const stored = await storedMessage(copy)
  if (!stored) throw invalid('This message was not kept, so it cannot be decided again.')
  const { policy, edition } = await activePolicy()
  const found = await readAndAsk({ ...stored, recipients: [copy.recipient], context: { now: new Date().toISOString() } }, edition)
  const viewer = personOwner(actor.id)
  const others = new Set(found.now.reasons.filter(r => isOthers(viewer, r.owner)).map(r => r.clause.id))
  return {
    now: {
      version: found.now.policyVersion,
      lane: found.now.lane,
      quarantine: found.now.quarantine,
      sentence: sentenceFor(actor, decisionFor(viewer, found.now), policy),
    },
    without: found.without
      .filter(w => !others.has(w.clause.id))
      .map(({ clause: { kind, id: clause }, lane, quarantine }) => ({ clause: { kind, id: clause }, lane, quarantine })),
  }
}
