import { replayed, withoutEntriesOf, type PolicyChange } from '../change'
import type { Policy } from '../policy'
import { differingIn, ownersOf } from './differing'
import { lookupKeysOf, type EntriesOf, type LookupKeys } from './lookup-keys'

/** Which mail a change can touch. */
export interface AffectedScope {
  /** Owners of the clauses that say something else. */
  owners: ReadonlySet<string>
  /** Some of them are asked of mail that goes out, whoever gets it. */
  outbound: boolean
  lookupKeys: LookupKeys
}

/**
 * Which mail differences from a policy can touch; too much rather than too little.
 * @param policy its lists may come without entries
 * @param entriesOf what a list of it holds, where that is known and not too much
 */
export function affectedScope(policy: Policy, net: readonly PolicyChange[], entriesOf?: EntriesOf): AffectedScope {
  const after = replayed(withoutEntriesOf(policy), net)
  const { after: differing } = differingIn(policy, after, net)
  const clauses = [policy, after].flatMap(p => [
    ...p.rules.filter(r => differing.rules.has(r.id)),
    ...p.assignments.filter(b => differing.assignments.has(b.id)),
  ])
  const thresholds = net.some(c => (c.type === 'put' && c.kind === 'threshold') || (c.type === 'remove' && c.kind === 'threshold'))
  const outbound = clauses.some(c => (c.direction ?? 'inbound') !== 'inbound')
  const lookupKeys = lookupKeysOf({ before: policy, after, net, entriesOf })
  return {
    owners: new Set([...ownersOf(differing, policy, after), ...(thresholds ? ['organisation'] : [])]),
    outbound,
    // Of mail that goes out recipients are asked for, and by those no archive is looked through.
    lookupKeys: outbound && lookupKeys?.senders.length ? null : lookupKeys,
  }
}
