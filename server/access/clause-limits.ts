import { effectKindOf, isCarriedOut, isPersonal, type Claim, type Owner } from '#core'
import { can, type Actor } from './roles'
import { invalid, notAllowed } from '../platform/problem'

/** Refuses claims that could be decided but not done. */
export function checkClaims(claims: readonly Claim[]): void {
  claims.forEach((claim, i) => {
    if ('effect' in claim && !isCarriedOut(claim.effect.kind))
      throw invalid(
        `The action “${claim.effect.kind}” is not available yet. Choose a tag, important, a header or a subject prefix.`,
        { [`claims.${i}.effect.kind`]: 'Choose another action.' },
      )
  })
}

/**
 * Refuses claims that are an administrator's word: what is done in every lane, headers that other programs act on, and turning
 * mail away in a way that its sender sees, or that leaves nothing, for oneself.
 */
export function mustBePermitted(actor: Actor, owner: Owner, claims: readonly Claim[]): void {
  const why = administratorsWord(owner, claims)
  if (why && !can(actor, 'change all lists and rules')) throw notAllowed(why)
}

/** Why only an administrator makes these claims; null where others may, too. */
export function administratorsWord(owner: Owner, claims: readonly Claim[]): string | null {
  for (const claim of claims) {
    if ('effect' in claim && claim.effect.inEveryLane)
      return 'Only an administrator can add headers and subject prefixes to stopped mail too.'
    if ('effect' in claim && effectKindOf(claim.effect.kind).administrators)
      return 'Only an administrator can add headers. Choose a tag or a subject prefix.'
    if ('stop' in claim && isPersonal(owner) && (claim.stop.to === 'refuse' || claim.stop.to === 'discard'))
      return 'Only an administrator can refuse or discard mail. Choose Spam or Bin.'
  }
  return null
}
