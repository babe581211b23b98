import { canVerifyNow } from '../verification/verification'
import { personOwner, type Policy, type UpstreamVerdict } from '#core'
import { reviews } from '../access/copy-access'
import { seesClausesOf } from '../access/ownership'
import { can, type Actor } from '../access/roles'
import { acceptedDirections } from '../policy/accepted-directions'
import { followed, activePolicy } from '../policy/active-policy'
import { allQuarantineSettings } from '../policy/quarantine-settings'
import { loadPolicy } from '../policy/store'

/** Names that forms and sentences need, as far as the actor may know them. */
export interface Directory {
  policy: { version: number | null, since: string | null }
  ownDomains: string[]
  authenticator: boolean
  /** Whether mail of these directions is accepted. */
  accepts: { outbound: boolean, internal: boolean }
  /** Whose clauses the actor may change, and for whom they may only propose changes. */
  owners: { id: string, name: string }[]
  proposable: { id: string, name: string }[]
  /** All of them, by name. */
  departments: { id: string, name: string }[]
  people: { id: string, name: string, address: string }[]
  /** Which the actor reviews, and what a recipient may do about what each holds. */
  quarantines: (Policy['quarantines'][number] & { reviews: boolean, canRequest: boolean, canRelease: boolean })[]
  lists: { id: string, name: string, owner: string, usualSide: 'allow' | 'block', size: number, enabled: boolean }[]
  phraseSets: Policy['phraseSets']
  /** Marks of upstream systems that we believe. */
  upstreamVerdicts: UpstreamVerdict[]
}

export async function directoryFor(actor: Actor): Promise<Directory> {
  const { policy, sizes } = await activePolicy()
  const administrator = can(actor, 'view settings')
  const settled = await allQuarantineSettings()
  return {
    policy: followed(),
    ownDomains: policy.trust.ownDomains,
    authenticator: policy.trust.relays.length > 0 || (await canVerifyNow()),
    accepts: acceptedDirections(policy),
    owners: [
      ...(administrator
        ? [{ id: 'organisation', name: 'whole organisation' }, ...policy.departments.map(d => ({ id: `department:${d.id}`, name: d.name }))]
        : []),
      ...(policy.people.some(p => p.id === actor.id) ? [{ id: personOwner(actor.id), name: 'me' }] : []),
    ],
    proposable: administrator
      ? []
      : [
          { id: 'organisation', name: 'whole organisation' },
          ...policy.departments.filter(d => actor.departments.includes(d.id)).map(d => ({ id: `department:${d.id}`, name: d.name })),
        ],
    departments: policy.departments.map(({ id, name }) => ({ id, name })),
    people: policy.people
      .filter(p => (administrator || p.id === actor.id) && p.addresses.length)
      .map(p => ({ id: p.id, name: p.name, address: p.addresses[0] ?? '' })),
    quarantines: policy.quarantines.map((q) => {
      const { canRequest, canRelease } = settled(q.id)
      return { ...q, reviews: reviews(actor, q.id), canRequest, canRelease }
    }),
    lists: policy.lists
      .filter(l => seesClausesOf(actor, l.owner))
      .map(l => ({ id: l.id, name: l.name, owner: l.owner, usualSide: l.usualSide, size: sizes.get(l.id) ?? 0, enabled: l.enabled })),
    phraseSets: policy.phraseSets.filter(s => seesClausesOf(actor, s.owner)),
    upstreamVerdicts: policy.trust.upstreamVerdicts ?? [],
  }
}

/**
 * The active policy as far as the actor may read it: other people's own clauses and addresses are left out, and to all but
 * administrators our networks.
 */
export async function readablePolicy(actor: Actor): Promise<Policy> {
  const policy = await loadPolicy()
  const mine = <T extends { owner: string }>(things: T[]) => things.filter(t => seesClausesOf(actor, t.owner))
  const administrator = can(actor, 'view settings')
  return {
    ...policy,
    // Which machines are believed is what somebody would want to know who means to come in as one of them.
    trust: administrator ? policy.trust : { ...policy.trust, relays: [], ownNetworks: [] },
    people: administrator ? policy.people : policy.people.filter(p => p.id === actor.id),
    lists: mine(policy.lists),
    assignments: mine(policy.assignments),
    phraseSets: mine(policy.phraseSets),
    rules: mine(policy.rules),
  }
}
