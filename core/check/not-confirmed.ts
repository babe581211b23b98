import type { Stop } from '../policy'
import type { Finding } from './types'

/**
 * The finding on a stop that deletes permanently or discards, and was not confirmed for what it matches now; null where it is.
 * @param since when it began to match more, as a clause
 */
export function notConfirmed(stop: Stop | undefined, since: string): Pick<Finding, 'evidence' | 'fix'> | null {
  if ((stop?.to !== 'erase' && stop?.to !== 'discard') || stop.confirmed) return null
  const what = stop.to === 'discard' ? 'discarding' : 'permanent deletion'
  return {
    evidence: `${what} was not confirmed since ${since}; until then its mail goes to Bin`,
    fix: 'Confirm it again, or change the action to Bin.',
  }
}
