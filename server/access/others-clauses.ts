import { isOthers, personOwner, reasonsFor, type Policy, type Ruling } from '#core'
import { clauseWords, rulingSentence } from '#core/words'
import type { Asker } from './roles'

/** Why, in one sentence, for the asker: without the words of a colleague's own clauses, whatever the asker's role. */
export function sentenceFor(asker: Asker, ruling: Pick<Ruling, 'lane' | 'quarantine' | 'reasons' | 'decidedBy'>, policy: Policy): string {
  return rulingSentence({ ...ruling, reasons: reasonsFor(personOwner(asker.id), ruling.reasons) }, policy)
}

/** Why, in a few words, as it was written down when the copy was decided. @param owner whose clause it names; null where nobody's own */
export function decidedSeenBy(asker: Asker, decided: string, owner: string | null): string {
  return owner !== null && isOthers(personOwner(asker.id), owner) ? clauseWords({ kind: 'rule', id: '', name: '', others: true }) : decided
}
