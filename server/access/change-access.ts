import isSame from 'fast-deep-equal'
import {
  departmentOwner,
  isPersonal,
  personOwner,
  rulesReferences,
  usesReferences,
  type Binding,
  type Claim,
  type Owner,
  type Policy,
  type Reference,
  type Rule,
  type Stop,
} from '#core'
import { clauseOwners, type PolicyChange } from '#core/change'
import { invalid, notAllowed, notFound } from '../platform/problem'
import { checkClaims, mustBeInPower } from './clause-limits'
import { mustBeAllowed, seesClausesOf } from './ownership'
import { may, type Asker } from './roles'

/**
 * Refuses changes of what is not the asker's to change, words that are not theirs to speak, and references to what they do not
 * see. Asked inside the lock, of the policy as it stands there.
 * @param prefix before the names of a use's fields, where it is part of a larger form
 */
export function mustBeChangeable(asker: Asker, policy: Policy, changes: readonly PolicyChange[], prefix = ''): void {
  const asked = new Asked(asker, policy, changes)
  for (const change of changes) {
    if (followsQuarantine(asked, change)) continue
    for (const owner of ownersOf(asked, change)) {
      // First whether it is theirs: whether somebody of that id is here is not for everybody to know.
      mustBeAllowed(asker, owner)
      asked.mustBeSomebody(owner)
    }
    mustBeSpeakable(asked, change, prefix)
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
  const asked = new Asked(asker, policy, changes)
  for (const change of changes) {
    for (const owner of ownersOf(asked, change)) {
      if (!seesClausesOf(asker, owner))
        throw notAllowed('You can propose changes for the organisation, and for the departments that you are in.')
      asked.mustBeSomebody(owner)
      if (isPersonal(owner))
        throw notAllowed('What is your own you can change yourself; only what is the organisation’s or a department’s is proposed.')
    }
    mustBeSpeakable(asked, change, '')
  }
}

type Kind = 'list' | 'use' | 'rule' | 'phrase set'

/** Changes that are asked for together, of a policy: each thing is found in constant time, since there may be thousands of both. */
class Asked {
  readonly #owners: ReadonlyMap<string, Owner>
  readonly #people: ReadonlySet<Owner>
  readonly uses: ReadonlyMap<string, Binding>
  readonly rules: ReadonlyMap<string, Rule>
  readonly marks: ReadonlySet<string>
  /** Lists that are made by these changes. */
  readonly made: ReadonlySet<string>
  /** Quarantines that are deleted, or come back. */
  readonly quarantines: ReadonlySet<string>

  constructor(readonly asker: Asker, policy: Policy, changes: readonly PolicyChange[]) {
    this.#owners = clauseOwners(policy)
    const [departments, people] = [policy.departments.map(d => departmentOwner(d.id)), policy.people.map(p => personOwner(p.id))]
    this.#people = new Set<Owner>(['organisation', ...departments, ...people])
    this.uses = new Map(policy.bindings.map(b => [b.id, b]))
    this.rules = new Map(policy.rules.map(r => [r.id, r]))
    this.marks = new Set(policy.trust.marks?.map(m => m.id))
    this.made = new Set(changes.flatMap(c => ('put' in c && c.put === 'list' ? [c.list.id!] : [])))
    const there = new Set(policy.quarantines.map(q => q.id))
    this.quarantines = new Set(
      changes.flatMap((c) => {
        if ('remove' in c && c.remove === 'quarantine') return [c.id]
        return 'put' in c && c.put === 'quarantine' && !there.has(c.quarantine.id!) ? [c.quarantine.id!] : []
      }),
    )
  }

  ownerOf(kind: Kind, id: string | undefined): Owner | undefined {
    return this.#owners.get(`${kind} ${id}`)
  }

  /** Refuses an owner that is neither the organisation nor a department or person of it. */
  mustBeSomebody(owner: Owner): void {
    if (!this.#people.has(owner))
      throw invalid(`“${owner}” is neither the organisation nor a department or person of it.`, { owner: 'Choose for whom it is.' })
  }
}

/**
 * A quarantine is the house's, and so is where its mail goes when it is deleted or comes back: a clause that somebody holds mail
 * there by follows, whosever it is, if nothing else of it changes.
 */
function followsQuarantine({ asker, quarantines, uses, rules }: Asked, change: PolicyChange): boolean {
  if (!quarantines.size || !may(asker, 'change everybody’s clauses') || !('put' in change)) return false
  const follows = (was: Stop | undefined, is: Stop | undefined) => {
    if (was?.to !== 'quarantine' || is?.to !== 'quarantine') return isSame(was, is)
    if (was.quarantine !== is.quarantine && !quarantines.has(was.quarantine!) && !quarantines.has(is.quarantine!)) return false
    return isSame({ ...was, quarantine: is.quarantine }, is)
  }
  if (change.put === 'use') {
    const was = uses.get(change.use.id ?? '')
    return was !== undefined && isSame({ ...was, stop: null }, { ...change.use, stop: null }) && follows(was.stop, change.use.stop)
  }
  if (change.put !== 'rule') return false
  const { rule } = change
  const was = rules.get(rule.id ?? '')
  if (!was || !isSame({ ...was, claims: [] }, { ...rule, claims: [] }) || was.claims.length !== rule.claims.length) return false
  const followsIn = (a: Claim, b: Claim) => ('stop' in a && 'stop' in b ? follows(a.stop, b.stop) : isSame(a, b))
  return was.claims.every((claim, i) => followsIn(claim, rule.claims[i]!))
}

function mustBeSpeakable(asked: Asked, change: PolicyChange, prefix: string): void {
  if (!('put' in change)) return
  if (change.put === 'rule') {
    checkClaims(change.rule.claims)
    mustSee(asked, { owner: change.rule.owner, references: rulesReferences(change.rule), prefix: '' })
  }
  if (change.put === 'use') mustSee(asked, { owner: change.use.owner, references: usesReferences(change.use), prefix })
}

const WHAT: Record<Kind, string> = {
  'list': 'list of that name',
  'use': 'use of a list with that number',
  'rule': 'rule of that name',
  'phrase set': 'phrase set of that name',
}

/** Whose clauses a change alters. @throws where the asker does not see what it is about */
function ownersOf(asked: Asked, change: PolicyChange): Owner[] {
  if ('order' in change) return [change.order]
  const there = (kind: Kind, id: string | undefined): Owner[] => {
    const owner = asked.ownerOf(kind, id)
    if (owner === undefined) return []
    if (!seesClausesOf(asked.asker, owner)) throw notFound(WHAT[kind])
    return [owner]
  }
  if ('put' in change) {
    switch (change.put) {
      case 'entries':
        return there('list', change.list)
      case 'list':
        return [change.list.owner, ...there('list', change.list.id)]
      case 'use':
        return [change.use.owner, ...there('use', change.use.id)]
      case 'rule':
        return [change.rule.owner, ...there('rule', change.rule.id)]
      case 'phrase set':
        return [change['phrase set'].owner, ...there('phrase set', change['phrase set'].id)]
      case 'quarantine':
      case 'threshold':
        return ['organisation']
    }
  }
  switch (change.remove) {
    case 'entries':
      return there('list', change.list)
    case 'list':
    case 'use':
    case 'rule':
    case 'phrase set':
      return there(change.remove, change.id)
    case 'quarantine':
    case 'threshold':
      return ['organisation']
  }
}

/** A department's list or set that the asker does not see is as if it were not there, unless it is the clause's own owner's. */
function mustSee(
  asked: Asked,
  { owner, references, prefix }: { owner: Owner, references: readonly Reference[], prefix: string },
): void {
  const unseen = references.filter(({ to, id }) => {
    if (to === 'upstream mark') return !asked.marks.has(id)
    if (to === 'quarantine' || asked.made.has(id)) return false
    const theirs = asked.ownerOf(to, id)
    return theirs !== undefined && theirs !== owner && !seesClausesOf(asked.asker, theirs)
  })
  if (!unseen.length) return
  const said = unseen.map(r => [prefix + r.path.slice(1).replaceAll('/', '.'), `there is no ${r.to} “${r.id}” in this policy`] as const)
  throw invalid(said.map(([, message]) => message).join('; '), Object.fromEntries(said))
}
