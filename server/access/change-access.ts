import isSame from 'fast-deep-equal'
import {
  departmentOwner,
  isPersonal,
  personOwner,
  rulesReferences,
  assignmentReferences,
  type Assignment,
  type Claim,
  type Owner,
  type Policy,
  type Reference,
  type Rule,
  type Stop,
} from '#core'
import { clauseOwners, missingWords, type PolicyChange } from '#core/change'
import { invalid, notAllowed, notFound } from '../platform/problem'
import { checkClaims, mustBePermitted } from './clause-limits'
import { mustBeAllowed, seesClausesOf } from './ownership'
import { can, type Actor } from './roles'

/**
 * Refuses changes of what is not the actor's to change, words that are not theirs to speak, and references to what they do not
 * see. Asked inside the lock, of the policy as it stands there.
 * @param prefix before the names of a use's fields, where it is part of a larger form
 */
export function mustBeChangeable(actor: Actor, policy: Policy, changes: readonly PolicyChange[], prefix = ''): void {
  const asked = new ReferencesAsked(actor, policy, changes)
  for (const change of changes) {
    if (followsQuarantine(asked, change)) continue
    for (const owner of ownersOf(asked, change)) {
      // First whether it is theirs: whether somebody of that id is here is not for everybody to know.
      mustBeAllowed(actor, owner)
      asked.mustBeSomebody(owner)
    }
    mustBeSpeakable(asked, change, prefix)
    if (change.type !== 'put') continue
    if (change.kind === 'rule') mustBePermitted(actor, change.value.owner, change.value.claims)
    if (change.kind === 'assignment' && change.value.stop) mustBePermitted(actor, change.value.owner, [{ stop: change.value.stop }])
  }
}

/**
 * Refuses to have changes proposed that nobody could save for the actor: of what they do not see, or of clauses that are
 * one person's own. Whether it is theirs to change is not asked; whoever answers is asked that.
 */
export function mustBeProposable(actor: Actor, policy: Policy, changes: readonly PolicyChange[]): void {
  const asked = new ReferencesAsked(actor, policy, changes)
  for (const change of changes) {
    for (const owner of ownersOf(asked, change)) {
      if (!seesClausesOf(actor, owner))
        throw notAllowed('You can propose changes for the organisation and for your departments.')
      asked.mustBeSomebody(owner)
      if (isPersonal(owner))
        throw notAllowed('You can change your own lists and rules yourself. Propose only changes for the organisation or a department.')
    }
    mustBeSpeakable(asked, change, '')
  }
}

type Kind = 'list' | 'assignment' | 'rule' | 'phraseSet'

/** Changes that are asked for together, of a policy: each thing is found in constant time, since there may be thousands of both. */
class ReferencesAsked {
  readonly #owners: ReadonlyMap<string, Owner>
  readonly #people: ReadonlySet<Owner>
  readonly assignments: ReadonlyMap<string, Assignment>
  readonly rules: ReadonlyMap<string, Rule>
  readonly upstreamVerdicts: ReadonlySet<string>
  /** Lists that are made by these changes. */
  readonly made: ReadonlySet<string>
  /** Quarantines that are deleted, or come back. */
  readonly quarantines: ReadonlySet<string>

  constructor(readonly actor: Actor, policy: Policy, changes: readonly PolicyChange[]) {
    this.#owners = clauseOwners(policy)
    const [departments, people] = [policy.departments.map(d => departmentOwner(d.id)), policy.people.map(p => personOwner(p.id))]
    this.#people = new Set<Owner>(['organisation', ...departments, ...people])
    this.assignments = new Map(policy.assignments.map(b => [b.id, b]))
    this.rules = new Map(policy.rules.map(r => [r.id, r]))
    this.upstreamVerdicts = new Set(policy.trust.upstreamVerdicts?.map(m => m.id))
    this.made = new Set(changes.flatMap(c => (c.type === 'put' && c.kind === 'list' ? [c.value.id!] : [])))
    const there = new Set(policy.quarantines.map(q => q.id))
    this.quarantines = new Set(
      changes.flatMap((c) => {
        if (c.type === 'remove' && c.kind === 'quarantine') return [c.id]
        return c.type === 'put' && c.kind === 'quarantine' && !there.has(c.value.id!) ? [c.value.id!] : []
      }),
    )
  }

  ownerOf(kind: Kind, id: string | undefined): Owner | undefined {
    return this.#owners.get(`${kind} ${id}`)
  }

  /** Refuses an owner that is neither the organisation nor a department or person of it. */
  mustBeSomebody(owner: Owner): void {
    if (!this.#people.has(owner))
      throw invalid(`“${owner}” is not the organisation, a department or a user.`, { owner: 'Choose the owner.' })
  }
}

/**
 * A quarantine is the house's, and so is where its mail goes when it is deleted or comes back: a clause that somebody holds mail
 * there by follows, whosever it is, if nothing else of it changes.
 */
function followsQuarantine({ actor, quarantines, assignments, rules }: ReferencesAsked, change: PolicyChange): boolean {
  if (!quarantines.size || !can(actor, 'change all lists and rules') || change.type !== 'put') return false
  const follows = (was: Stop | undefined, is: Stop | undefined) => {
    if (was?.to !== 'quarantine' || is?.to !== 'quarantine') return isSame(was, is)
    if (was.quarantine !== is.quarantine && !quarantines.has(was.quarantine!) && !quarantines.has(is.quarantine!)) return false
    return isSame({ ...was, quarantine: is.quarantine }, is)
  }
  if (change.kind === 'assignment') {
    const was = assignments.get(change.value.id ?? '')
    return was !== undefined && isSame({ ...was, stop: null }, { ...change.value, stop: null }) && follows(was.stop, change.value.stop)
  }
  if (change.kind !== 'rule') return false
  const rule = change.value
  const was = rules.get(rule.id ?? '')
  if (!was || !isSame({ ...was, claims: [] }, { ...rule, claims: [] }) || was.claims.length !== rule.claims.length) return false
  const followsIn = (a: Claim, b: Claim) => ('stop' in a && 'stop' in b ? follows(a.stop, b.stop) : isSame(a, b))
  return was.claims.every((claim, i) => followsIn(claim, rule.claims[i]!))
}

function mustBeSpeakable(asked: ReferencesAsked, change: PolicyChange, prefix: string): void {
  if (change.type !== 'put') return
  if (change.kind === 'rule') {
    checkClaims(change.value.claims)
    mustSee(asked, { owner: change.value.owner, references: rulesReferences(change.value), prefix: '' })
  }
  if (change.kind === 'assignment') mustSee(asked, { owner: change.value.owner, references: assignmentReferences(change.value), prefix })
}

const WHAT: Record<Kind, string> = {
  list: 'This list',
  assignment: 'This assignment',
  rule: 'This rule',
  phraseSet: 'This phrase set',
}

/** Whose clauses a change alters. @throws where the actor does not see what it is about */
function ownersOf(asked: ReferencesAsked, change: PolicyChange): Owner[] {
  if (change.type === 'order') return [change.owner]
  const there = (kind: Kind, id: string | undefined): Owner[] => {
    const owner = asked.ownerOf(kind, id)
    if (owner === undefined) return []
    if (!seesClausesOf(asked.actor, owner)) throw notFound(WHAT[kind])
    return [owner]
  }
  if (change.type === 'put') {
    switch (change.kind) {
      case 'entries':
        return there('list', change.list)
      case 'list':
        return [change.value.owner, ...there('list', change.value.id)]
      case 'assignment':
        return [change.value.owner, ...there('assignment', change.value.id)]
      case 'rule':
        return [change.value.owner, ...there('rule', change.value.id)]
      case 'phraseSet':
        return [change.value.owner, ...there('phraseSet', change.value.id)]
      case 'quarantine':
      case 'threshold':
        return ['organisation']
    }
  }
  switch (change.kind) {
    case 'entries':
      return there('list', change.list)
    case 'list':
    case 'assignment':
    case 'rule':
    case 'phraseSet':
      return there(change.kind, change.id)
    case 'quarantine':
    case 'threshold':
      return ['organisation']
  }
}

/** A department's list or set that the actor does not see is as if it were not there, unless it is the clause's own owner's. */
function mustSee(
  asked: ReferencesAsked,
  { owner, references, prefix }: { owner: Owner, references: readonly Reference[], prefix: string },
): void {
  const unseen = references.filter(({ to, id }) => {
    if (to === 'upstreamVerdict') return !asked.upstreamVerdicts.has(id)
    if (to === 'quarantine' || asked.made.has(id)) return false
    const theirs = asked.ownerOf(to, id)
    return theirs !== undefined && theirs !== owner && !seesClausesOf(asked.actor, theirs)
  })
  if (!unseen.length) return
  const said = unseen.map(r => [prefix + r.path.slice(1).replaceAll('/', '.'), missingWords(r.to, r.id)] as const)
  throw invalid(said.map(([, message]) => message).join('; '), Object.fromEntries(said))
}
