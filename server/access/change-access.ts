import isSame from 'fast-deep-equal'
import { isPersonal, rulesReferences, usesReferences, type Claim, type Owner, type Policy, type Reference, type Stop } from '#core'
import type { PolicyChange } from '#core/change'
import { invalid, notAllowed, notFound } from '../platform/problem'
import { checkClaims, mustBeInPower } from './clause-limits'
import { mustBeAllowed, mustBeSomebody, seesClausesOf } from './ownership'
import { may, type Asker } from './roles'

/**
 * Refuses changes of what is not the asker's to change, words that are not theirs to speak, and references to what they do not
 * see. Asked inside the lock, of the policy as it stands there.
 * @param prefix before the names of a use's fields, where it is part of a larger form
 */
export function mustBeChangeable(asker: Asker, policy: Policy, changes: readonly PolicyChange[], prefix = ''): void {
  for (const change of changes) {
    if (followsQuarantine({ asker, policy, changes }, change)) continue
    for (const owner of ownersOf(asker, policy, change)) {
      mustBeSomebody(policy, owner)
      mustBeAllowed(asker, owner)
    }
    mustBeSpeakable({ asker, policy, changes }, change, prefix)
    if (!('put' in change)) continue
    if (change.put === 'rule') mustBeInPower(asker, change.rule.owner, change.rule.claims)
    if (change.put === 'use' && change.use.stop) mustBeInPower(asker, change.use.owner, [{ stop: change.use.stop }])
  }
}

/**
 * Refuses to have changes proposed that nobody could put in force for the asker: of what they do not see, or of clauses that are
 * one person's own. Whether it is theirs to change is not asked; whoever answers is asked that.
 */
export function mustBeProposable(asker: Asker, policy: Policy, changes: readonly PolicyChange[]): void {
  for (const change of changes) {
    for (const owner of ownersOf(asker, policy, change)) {
      mustBeSomebody(policy, owner)
      if (!seesClausesOf(asker, owner))
        throw notAllowed('You can propose changes for the organisation, and for the departments that you are in.')
      if (isPersonal(owner))
        throw notAllowed('What is your own you can change yourself; only what is the organisation’s or a department’s is proposed.')
    }
    mustBeSpeakable({ asker, policy, changes }, change, '')
  }
}

/** Changes that are asked for together, of a policy. */
interface Asked {
  asker: Asker
  policy: Policy
  changes: readonly PolicyChange[]
}

/**
 * A quarantine is the house's, and so is where its mail goes when it is deleted or comes back: a clause that somebody holds mail
 * there by follows, whosever it is, if nothing else of it changes.
 */
function followsQuarantine({ asker, policy, changes }: Asked, change: PolicyChange): boolean {
  if (!may(asker, 'change everybody’s clauses') || !('put' in change)) return false
  const there = new Set(policy.quarantines.map(q => q.id))
  const concerned = new Set(
    changes.flatMap((c) => {
      if ('remove' in c && c.remove === 'quarantine') return [c.id]
      return 'put' in c && c.put === 'quarantine' && !there.has(c.quarantine.id!) ? [c.quarantine.id!] : []
    }),
  )
  if (!concerned.size) return false
  const follows = (was: Stop | undefined, is: Stop | undefined) => {
    if (was?.to !== 'quarantine' || is?.to !== 'quarantine') return isSame(was, is)
    if (was.quarantine !== is.quarantine && !concerned.has(was.quarantine!) && !concerned.has(is.quarantine!)) return false
    return isSame({ ...was, quarantine: is.quarantine }, is)
  }
  if (change.put === 'use') {
    const was = policy.bindings.find(b => b.id === change.use.id)
    return was !== undefined && isSame({ ...was, stop: null }, { ...change.use, stop: null }) && follows(was.stop, change.use.stop)
  }
  if (change.put !== 'rule') return false
  const { rule } = change
  const was = policy.rules.find(r => r.id === rule.id)
  if (!was || !isSame({ ...was, claims: [] }, { ...rule, claims: [] }) || was.claims.length !== rule.claims.length) return false
  const followsIn = (a: Claim, b: Claim) => ('stop' in a && 'stop' in b ? follows(a.stop, b.stop) : isSame(a, b))
  return was.claims.every((claim, i) => followsIn(claim, rule.claims[i]!))
}

function mustBeSpeakable(
  { asker, policy, changes }: Asked,
  change: PolicyChange,
  prefix: string,
): void {
  if (!('put' in change)) return
  if (change.put === 'rule') {
    checkClaims(change.rule.claims)
    mustSee({ asker, policy, changes }, { owner: change.rule.owner, references: rulesReferences(change.rule), prefix: '' })
  }
  if (change.put === 'use') mustSee({ asker, policy, changes }, { owner: change.use.owner, references: usesReferences(change.use), prefix })
}

/** Whose clauses a change alters. @throws where the asker does not see what it is about */
function ownersOf(asker: Asker, policy: Policy, change: PolicyChange): Owner[] {
  if ('order' in change) return [change.order]
  const there = (things: readonly { id: string, owner: Owner }[], id: string | undefined, what: string): Owner[] => {
    const owner = things.find(t => t.id === id)?.owner
    if (owner === undefined) return []
    if (!seesClausesOf(asker, owner)) throw notFound(what)
    return [owner]
  }
  if ('put' in change) {
    switch (change.put) {
      case 'entries':
        return there(policy.lists, change.list, 'list of that name')
      case 'list':
        return [change.list.owner, ...there(policy.lists, change.list.id, 'list of that name')]
      case 'use':
        return [change.use.owner, ...there(policy.bindings, change.use.id, 'use of a list with that number')]
      case 'rule':
        return [change.rule.owner, ...there(policy.rules, change.rule.id, 'rule of that name')]
      case 'phrase set':
        return [change['phrase set'].owner, ...there(policy.phraseSets, change['phrase set'].id, 'phrase set of that name')]
      case 'quarantine':
      case 'threshold':
        return ['organisation']
    }
  }
  switch (change.remove) {
    case 'entries':
      return there(policy.lists, change.list, 'list of that name')
    case 'list':
      return there(policy.lists, change.id, 'list of that name')
    case 'use':
      return there(policy.bindings, change.id, 'use of a list with that number')
    case 'rule':
      return there(policy.rules, change.id, 'rule of that name')
    case 'phrase set':
      return there(policy.phraseSets, change.id, 'phrase set of that name')
    case 'quarantine':
    case 'threshold':
      return ['organisation']
  }
}

/** A department's list or set that the asker does not see is as if it were not there, unless it is the clause's own owner's. */
function mustSee(
  { asker, policy, changes }: Asked,
  { owner, references, prefix }: { owner: Owner, references: readonly Reference[], prefix: string },
): void {
  const made = new Set(changes.flatMap(c => ('put' in c && c.put === 'list' ? [c.list.id] : [])))
  const unseen = references.filter(({ to, id }) => {
    if (to === 'upstream mark') return !policy.trust.marks?.some(m => m.id === id)
    if (to === 'quarantine' || made.has(id)) return false
    const thing = (to === 'list' ? policy.lists : policy.phraseSets).find(t => t.id === id)
    return thing !== undefined && thing.owner !== owner && !seesClausesOf(asker, thing.owner)
  })
  if (!unseen.length) return
  const said = unseen.map(r => [prefix + r.path.slice(1).replaceAll('/', '.'), `there is no ${r.to} “${r.id}” in this policy`] as const)
  throw invalid(said.map(([, message]) => message).join('; '), Object.fromEntries(said))
}
