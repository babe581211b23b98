/** The standard normal deviate of 95 % confidence, two-sided. */
const Z95 = 1.959964

/**
 * Wilson's score interval of a proportion, without continuity correction (Newcombe 1998, Statistics in Medicine 17:857-872,
 * method 3).
 * @param hits so many …
 * @param of … of so many; of none, nothing is known
 * @returns lower and upper limit, 0 to 1, at 95 % confidence
 */
export function wilson(hits: number, of: number): [number, number] {
  if (of <= 0) return [0, 1]
  const p = hits / of
  const zz = Z95 * Z95
  const middle = 2 * of * p + zz
  const half = Z95 * Math.sqrt(zz + 4 * of * p * (1 - p))
  const bottom = 2 * (of + zz)
  return [Math.max(0, (middle - half) / bottom), Math.min(1, (middle + half) / bottom)]
}
