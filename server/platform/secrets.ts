import { createHash, timingSafeEqual } from 'node:crypto'

/** True if the two are the same secret; takes as long whichever letter differs, and takes any letters. */
export function isSecret(given: string, wanted: string): boolean {
  const digest = (text: string) => createHash('sha256').update(text).digest()
  return timingSafeEqual(digest(given), digest(wanted))
}
