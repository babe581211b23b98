import type { Claim, Stop } from '#core'
import { invalid } from './problem'

// What the installation can carry out today. A clause that asks for more is not saved, since it would promise what
// nobody does.
const STOPS = new Set<Stop['to']>(['spam', 'quarantine', 'bin'])
const EFFECTS = new Set(['tag', 'important'])

export function checkStop(stop: Stop, field: string): void {
  if (!STOPS.has(stop.to)) throw invalid(`“${stop.to}” cannot be carried out yet. Choose spam, a quarantine or the bin.`, { [field]: 'Choose spam, a quarantine or the bin.' })
}

export function checkClaims(claims: readonly Claim[]): void {
  claims.forEach((claim, i) => {
    if ('stop' in claim) checkStop(claim.stop, `claims.${i}.stop.to`)
    if ('effect' in claim && !EFFECTS.has(claim.effect.kind)) throw invalid(`The effect “${claim.effect.kind}” cannot be carried out yet. Choose a tag, or important.`, { [`claims.${i}.effect.kind`]: 'Choose a tag, or important.' })
  })
}
