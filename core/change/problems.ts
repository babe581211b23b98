import { addTo } from '../add-to'
import { isPersonal, rulesReferences, thresholdsReferences, usesReferences, type Binding, type Owner, type Reference } from '../policy'
import { clauseOwners } from './clause-owners'
import { THRESHOLDS, type ChangeProblem, type Clauses, type PolicyChange } from './types'

/** What is wrong with what changes come to: names that are taken, references to what is not there, the same thing twice. */
export function problemsIn(before: Clauses, after: Clauses, changes: readonly PolicyChange[]): ChangeProblem[] {
  const [was, is] = [new Owners(before), new Known(after)]
  const out: ChangeProblem[] = []
  changes.forEach((change, i) => {
    out.push(...problemsOf(was, is, change).map(p => ({ ...p, change: i })))
    was.note(change)
  })
  return [...out, ...leftBehind(before, is, changes)]
}

/** Whose each thing was before. What was taken away on the way is made anew, by whomever. */
class Owners {
  readonly #owners: Map<string, Owner>
  readonly #usesOfList = new Map<string, string[]>()

  constructor(clauses: Clauses) {
    this.#owners = clauseOwners(clauses)
    for (const { id, list } of clauses.bindings) addTo(this.#usesOfList, list, id)
  }

  of(what: string, id: string | undefined): Owner | undefined {
    return this.#owners.get(`${what} ${id}`)
  }

  note(change: PolicyChange): void {
    if (!('remove' in change) || change.remove === 'entries') return
    this.#owners.delete(`${change.remove} ${change.id}`)
    if (change.remove !== 'list') return
    for (const use of this.#usesOfList.get(change.id) ?? []) this.#owners.delete(`use ${use}`)
    this.#usesOfList.delete(change.id)
  }
}

/** What changes came to, to be looked up in. Each table is made when it is first needed. */
class Known {
  #names: Map<string, string[]> | undefined
  #things: Map<string, Owner | undefined> | undefined
  #uses: Map<string, string[]> | undefined
  #users: Map<string, { owner: Owner, name: string }[]> | undefined

  constructor(readonly clauses: Clauses) {}

  /** Ids of the things of that kind and owner with that name, whatever its case. */
  named(what: NamedKind, owner: Owner | undefined, name: string): readonly string[] {
    if (!this.#names) {
      this.#names = new Map()
      for (const kind of Object.keys(NAMED) as NamedKind[])
        for (const t of this.clauses[NAMED[kind]] as readonly Named[]) addTo(this.#names, nameKey(kind, t.owner, t.name), t.id)
    }
    return this.#names.get(nameKey(what, owner, name)) ?? []
  }

  /** Whose it is; false where there is no such thing. A quarantine is nobody's. */
  ownerOf(what: string, id: string): Owner | undefined | false {
    if (!this.#things) {
      this.#things = new Map()
      for (const kind of Object.keys(NAMED) as NamedKind[])
        for (const t of this.clauses[NAMED[kind]] as readonly Named[]) this.#things.set(`${kind} ${t.id}`, t.owner)
    }
    return this.#things.has(`${what} ${id}`) ? this.#things.get(`${what} ${id}`) : false
  }

  /** Ids of the uses that say the same as this one. */
  usesLike(use: Binding): readonly string[] {
    if (!this.#uses) {
      this.#uses = new Map()
      for (const b of this.clauses.bindings) addTo(this.#uses, useKey(b), b.id)
    }
    return this.#uses.get(useKey(use)) ?? []
  }

  /** Clauses that refer to a thing. */
  usersOf(to: Reference['to'], id: string): readonly { owner: Owner, name: string }[] {
    if (!this.#users) {
      this.#users = new Map()
      const names = new Map(this.clauses.lists.map(l => [l.id, l.name]))
      for (const rule of this.clauses.rules)
        for (const key of keysOf(rulesReferences(rule))) addTo(this.#users, key, { owner: rule.owner, name: rule.name })
      for (const use of this.clauses.bindings)
        for (const key of keysOf(usesReferences(use).filter(r => r.to === 'quarantine')))
          addTo(this.#users, key, { owner: use.owner, name: names.get(use.list) ?? 'a list' })
      for (const t of THRESHOLDS) {
        const quarantine = this.clauses.thresholds?.[t]?.stop.quarantine
        if (quarantine !== undefined) addTo(this.#users, `quarantine ${quarantine}`, { owner: 'organisation', name: `the score (${t})` })
      }
    }
    return this.#users.get(`${to} ${id}`) ?? []
  }
}

interface Named { id: string, name: string, owner?: Owner }
const NAMED = { 'list': 'lists', 'phrase set': 'phraseSets', 'quarantine': 'quarantines', 'rule': 'rules' } as const
type NamedKind = keyof typeof NAMED

const nameKey = (what: NamedKind, owner: Owner | undefined, name: string) => `${what} ${owner ?? ''}\0${name.toLowerCase()}`
const useKey = (b: Binding) => `${b.list} ${b.owner} ${b.side} ${b.direction ?? 'inbound'} ${b.state}`
const keysOf = (references: readonly Reference[]) => new Set(references.map(r => `${r.to} ${r.id}`))

type Found = Omit<ChangeProblem, 'change'>

function problemsOf(was: Owners, is: Known, change: PolicyChange): Found[] {
  if (!('put' in change)) return []
  switch (change.put) {
    case 'list':
      return [...nameProblems(is, 'list', change.list), ...ownerProblems(was.of('list', change.list.id), change.list.owner, 'list')]
    case 'phrase set': {
      const set = change['phrase set']
      return [...nameProblems(is, 'phrase set', set), ...ownerProblems(was.of('phrase set', set.id), set.owner, 'phrase set')]
    }
    case 'quarantine':
      return nameProblems(is, 'quarantine', change.quarantine)
    case 'rule':
      return [
        ...nameProblems(is, 'rule', change.rule),
        ...ownerProblems(was.of('rule', change.rule.id), change.rule.owner, 'rule'),
        ...missing(is, rulesReferences(change.rule), change.rule.owner),
      ]
    case 'use':
      return [
        ...ownerProblems(was.of('use', change.use.id), change.use.owner, 'use of a list'),
        ...missing(is, usesReferences(change.use), change.use.owner),
        ...useProblems(is, change.use as Binding),
      ]
    case 'threshold':
      return missing(is, thresholdsReferences(change.threshold), 'organisation')
    case 'entries':
      return []
  }
}

function nameProblems(is: Known, what: NamedKind, { id, name, owner }: Partial<Named> & { name: string }): Found[] {
  const taken = is.named(what, owner, name).some(other => other !== id)
  return taken ? [{ field: 'name', message: `There is a ${what} “${name}” already. This name is taken; choose another.` }] : []
}

function ownerProblems(was: Owner | undefined, owner: Owner, what: string): Found[] {
  return was !== undefined && was !== owner
    ? [{ field: 'owner', message: `A ${what} stays with its owner; make a copy for somebody else.` }]
    : []
}

/** References to what is not there. Somebody's own list or phrase set serves only them, and says not even that it is there. */
function missing(is: Known, references: readonly Reference[], owner: Owner): Found[] {
  return references
    .filter(r => !isThere(is, r, owner))
    .map(({ to, id, path }) => ({
      field: path.slice(1).replaceAll('/', '.'),
      message: `there is no ${to} “${id}” in this policy`,
    }))
}

function isThere(is: Known, { to, id }: Reference, owner: Owner): boolean {
  // Whom we believe is no part of the clauses; whoever knows it asks.
  if (to === 'upstream mark') return true
  const theirs = is.ownerOf(to, id)
  return theirs !== false && (theirs === undefined || theirs === owner || !isPersonal(theirs))
}

// The same use twice says nothing more and is forgotten when one of the two is changed. One on trial beside one that acts is no such pair.
function useProblems(is: Known, use: Binding): Found[] {
  return is.usesLike(use).some(id => id !== use.id)
    ? [
        {
          field: 'side',
          message: 'The list is put to that use already, for the same people and direction. Change that use instead.',
        },
      ]
    : []
}

/** What refers to things that the changes took away. */
function leftBehind(before: Clauses, is: Known, changes: readonly PolicyChange[]): ChangeProblem[] {
  const names = { 'list': before.lists, 'phrase set': before.phraseSets, 'quarantine': before.quarantines }
  let known: Map<string, string> | undefined
  return changes.flatMap((change, i): ChangeProblem[] => {
    if (!('remove' in change) || !(change.remove === 'list' || change.remove === 'phrase set' || change.remove === 'quarantine')) return []
    const { remove: to, id } = change
    if (to === 'quarantine' && before.quarantines.some(q => q.id === id && q.general))
      return [{ change: i, field: 'id', message: 'The general quarantine stays: mail needs a place where it can be held.' }]
    if (is.ownerOf(to, id) !== false) return []
    const users = [...is.usersOf(to, id)]
    if (!users.length) return []
    known ??= new Map(Object.entries(names).flatMap(([what, things]) => things.map(t => [`${what} ${t.id}`, t.name] as const)))
    return [{ change: i, field: 'id', message: `“${known.get(`${to} ${id}`) ?? id}” is used by`, users }]
  })
}
