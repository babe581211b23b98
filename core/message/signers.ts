import type { Authentication } from './types'

/** The domains whose DKIM signatures passed, whether they match From or not; each once. */
export function signersOf({ found }: Authentication): string[] {
  return found ? [...new Set(found.dkim.filter(s => s.result === 'pass').map(s => s.domain))] : []
}
