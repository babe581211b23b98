import type { Claim } from '#core'
import { invalid } from './problem'

// What the installation can carry out today. A clause that asks for more is not saved, since it would promise what
// nobody does.
const EFFECTS = new Set(['tag', 'important', 'header', 'subject mark'])

/** Refuses claims that could be decided but not done. */
export function checkClaims(claims: readonly Claim[]): void {
  claims.forEach((claim, i) => {
    if ('effect' in claim && !EFFECTS.has(claim.effect.kind)) throw invalid(`The effect “${claim.effect.kind}” cannot be carried out yet. Choose a tag, important, a header or a mark before the subject.`, { [`claims.${i}.effect.kind`]: 'Choose another effect.' })
  })
}
