/** How often something was seen in each of two bodies of text, and how much there is of each. */
export interface Seen {
  here: number
  ofHere: number
  elsewhere: number
  ofElsewhere: number
}

/**
 * How much more something belongs here than elsewhere: the log-odds ratio with an informative Dirichlet prior, divided by its
 * standard deviation (Monroe, Colaresi & Quinn 2008, Fightin’ Words, Political Analysis 16:372-403, equations 16, 18 and 22).
 * The prior is what is seen in both together, weighing as much as `prior` sightings.
 * @returns a z-score; above 0 it belongs here
 */
export function logOdds({ here, ofHere, elsewhere, ofElsewhere }: Seen, prior = 10): number {
  const all = ofHere + ofElsewhere
  if (!all) return 0
  // Nothing is quite impossible, nor quite certain.
  const alpha = Math.max(1e-6, (prior * (here + elsewhere)) / all)
  const rest = Math.max(1e-6, prior - alpha)
  const odds = (y: number, n: number) => Math.log((y + alpha) / (n - y + rest))
  const variance = 1 / (here + alpha) + 1 / (elsewhere + alpha)
  return (odds(here, ofHere) - odds(elsewhere, ofElsewhere)) / Math.sqrt(variance)
}
