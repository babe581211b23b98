import { isPersonal, ORGANISATION, type CompiledPolicy, type Threshold } from '../policy'
import type { Copy } from './conditions'
import type { Context, Match } from './types'

/**
 * The clauses that stand last: the organisation's score thresholds, of which the highest that is reached speaks, and the
 * reader's learned low priority. Points and certainty are found by whoever scores and learns; here they only take their place.
 */
export function lastMatches(compiled: CompiledPolicy, copy: Copy, tiers: readonly string[], { score, learned }: Context): Match[] {
  if (copy.stage === 'outbound') return []
  const out: Match[] = []
  const { sure, likely } = compiled.policy.thresholds ?? {}
  const reached = (t: Threshold | undefined) => t !== undefined && score !== undefined && score >= t.at
  if (reached(sure)) out.push(thresholdMatch('sure', sure!, score!))
  else if (reached(likely)) out.push(thresholdMatch('likely', likely!, score!))
  const personal = tiers.find(isPersonal)
  if (learned !== undefined && personal !== undefined)
    out.push({
      ...PLAIN,
      clause: { kind: 'learned', id: personal, name: 'low priority' },
      owner: personal,
      claims: [{ place: { to: 'lowPriority' } }],
      evidence: [{ kind: 'learned', certainty: learned.certainty }],
    })
  return out
}

const PLAIN = { mandatory: false, state: 'enabled', end: null, lost: null, excepted: null, lostExceptions: [] } satisfies Partial<Match>

function thresholdMatch(id: 'likely' | 'sure', threshold: Threshold, points: number): Match {
  return {
    ...PLAIN,
    clause: { kind: 'score', id, name: id },
    owner: ORGANISATION,
    claims: [{ stop: threshold.stop }],
    evidence: [{ kind: 'score', points, from: threshold.at }],
  }
}
