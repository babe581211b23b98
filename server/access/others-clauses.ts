import { isOthers, personOwner, reasonsFor, type Policy, type Decision } from '#core'
import { decisionSentence, shortReasonWords, type ShortReason } from '#core/words'
import type { Actor } from './roles'

/** Why, in one sentence, for the actor: without the words of a colleague's own clauses, whatever the actor's role. */
export function sentenceFor(
  actor: Actor,
  decision: Pick<Decision, 'lane' | 'quarantine' | 'reasons' | 'decidedBy'>,
  policy: Policy,
): string {
  return decisionSentence({ ...decision, reasons: reasonsFor(personOwner(actor.id), decision.reasons) }, policy)
}

/** Why, in a few words, for somebody: a colleague's own clause is not named. */
export function shortReasonFor(actor: Actor, reason: ShortReason): string {
  return shortReasonWords(reason, reason.kind === 'clause' && isOthers(personOwner(actor.id), reason.owner))
}
