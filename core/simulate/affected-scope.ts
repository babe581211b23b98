import { replayed, withoutEntriesOf, type PolicyChange } from '../change'
import type { Policy } from '../policy'
import { differingIn, ownersOf } from './differing'
import { lookupKeysOf, type LookupKeys } from './lookup-keys'

/** Which mail a change can touch. */
export interface AffectedScope {
  /** Owners of the clauses that say something else. */
  owners: ReadonlySet<string>
  /** Some of them are asked of mail that goes out, whoever gets it. */
  outbound: boolean
  lookupKeys: LookupKeys
}

/** Which mail differences from a policy can touch; too much rather than too little. @param policy its lists may come without entries */
export function affectedScope(policy: Policy, net: readonly PolicyChange[]): AffectedScope {
  const after = replayed(withoutEntriesOf(policy), net)
  const { after: differing } = differingIn(policy, after, net)
  const clauses = [policy, after].flatMap(p => [
    ...p.rules.filter(r => differing.rules.has(r.id)),
    ...p.assignments.filter(b => differing.assignments.has(b.id)),
  ])
  const thresholds = net.some(c => (c.type === 'put' && c.kind === 'threshold') || (c.type === 'remove' && c.kind === 'threshold'))
  return {
    owners: new Set([...ownersOf(differing, policy, after), ...(thresholds ? ['organisation'] : [])]),
    outbound: clauses.some(c => (c.direction ?? 'inbound') !== 'inbound'),
    lookupKeys: lookupKeysOf(policy, after, net),
  }
}
