/** How often something was seen in each of two bodies of text, and how much there is of each. */
export interface Seen {
  here: number
  ofHere: number
  others: number
  ofOthers: number
}

/**
 * How much more something belongs here than elsewhere: the log-odds ratio with an informative Dirichlet prior (Monroe, Colaresi &
 * Quinn 2008, Fightin’ Words, Political Analysis 16:372-403, equation 16). The prior is what is seen in both together, weighing
 * as much as `prior` sightings. The paper divides it by its deviation (equations 20 and 22), against noise in rare words; that is
 * left out here: what examples share is in all of them, and only how rare it is elsewhere tells one from another.
 * @returns above 0 it belongs here, the more the rarer it is elsewhere
 */
export function logOdds({ here, ofHere, others, ofOthers }: Seen, prior = 10): number {
  const all = ofHere + ofOthers
  if (!all) return 0
  // Nothing is quite impossible, nor quite certain.
  const alpha = Math.max(1e-6, (prior * (here + others)) / all)
  const rest = Math.max(1e-6, prior - alpha)
  const odds = (y: number, n: number) => Math.log((y + alpha) / (n - y + rest))
  return odds(here, ofHere) - odds(others, ofOthers)
}
