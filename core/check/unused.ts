import { dayWords } from '../wording'
import type { CheckContext } from './types'

const UNUSED = 180 * 24 * 60 * 60 * 1000

/** Says what has matched nothing for 180 days, if it has been there, and mail on record, for so long. */
export function checkUse({ seen, now }: CheckContext, id: string, add: (evidence: string) => void): void {
  const known = seen?.get(id)
  if (!known || Date.parse(now) - Date.parse(known.last ?? known.since) <= UNUSED) return
  add(known.last === null ? `no matches since ${dayWords(known.since, 'UTC')}` : `last match on ${dayWords(known.last, 'UTC')}`)
}
