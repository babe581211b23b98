import { isOthers, personOwner, reasonsFor, type Policy, type Decision } from '#core'
import { clauseWords, decisionSentence } from '#core/words'
import type { Actor } from './roles'

/** Why, in one sentence, for the asker: without the words of a colleague's own clauses, whatever the asker's role. */
export function sentenceFor(actor: Actor, decision: Pick<Decision, 'lane' | 'quarantine' | 'reasons' | 'decidedBy'>, policy: Policy): string {
  return decisionSentence({ ...decision, reasons: reasonsFor(personOwner(actor.id), decision.reasons) }, policy)
}

/** Why, in a few words, as it was written down when the copy was decided. @param owner whose clause it names; null where nobody's own */
export function decidedSeenBy(actor: Actor, decided: string, owner: string | null): string {
  return owner !== null && isOthers(personOwner(actor.id), owner) ? clauseWords({ kind: 'rule', id: '', name: '', others: true }) : decided
}
