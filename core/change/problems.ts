import { addTo } from '../add-to'
import {
  isPersonal,
  rulesReferences,
  thresholdsReferences,
  assignmentReferences,
  type Assignment,
  type Owner,
  type Reference,
} from '../policy'
import { capitalised } from '../wording'
import { clauseOwners } from './clause-owners'
import { THRESHOLDS, type ChangeProblem, type Clauses, type PolicyChange } from './types'

/** What is wrong with what changes come to: names that are taken, references to what is not there, the same thing twice. */
export function problemsIn(before: Clauses, after: Clauses, changes: readonly PolicyChange[]): ChangeProblem[] {
  const [was, is] = [new Owners(before), new KnownNames(after)]
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
    for (const { id, list } of clauses.assignments) addTo(this.#usesOfList, list, id)
  }

  of(what: string, id: string | undefined): Owner | undefined {
    return this.#owners.get(`${what} ${id}`)
  }

  note(change: PolicyChange): void {
    if (change.type !== 'remove' || change.kind === 'entries') return
    this.#owners.delete(`${change.kind} ${change.id}`)
    if (change.kind !== 'list') return
    for (const assignment of this.#usesOfList.get(change.id) ?? []) this.#owners.delete(`assignment ${assignment}`)
    this.#usesOfList.delete(change.id)
  }
}

/** What changes came to, to be looked up in. Each table is made when it is first needed. */
class KnownNames {
  #names: Map<string, string[]> | undefined
  #things: Map<string, Owner | undefined> | undefined
  #assignments: Map<string, string[]> | undefined
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
  usesLike(assignment: Assignment): readonly string[] {
    if (!this.#assignments) {
      this.#assignments = new Map()
      for (const b of this.clauses.assignments) addTo(this.#assignments, useKey(b), b.id)
    }
    return this.#assignments.get(useKey(assignment)) ?? []
  }

  /** Clauses that refer to a thing. */
  usersOf(to: Reference['to'], id: string): readonly { owner: Owner, name: string }[] {
    if (!this.#users) {
      this.#users = new Map()
      const names = new Map(this.clauses.lists.map(l => [l.id, l.name]))
      for (const rule of this.clauses.rules)
        for (const key of keysOf(rulesReferences(rule))) addTo(this.#users, key, { owner: rule.owner, name: rule.name })
      for (const assignment of this.clauses.assignments)
        for (const key of keysOf(assignmentReferences(assignment).filter(r => r.to === 'quarantine')))
          addTo(this.#users, key, { owner: assignment.owner, name: names.get(assignment.list) ?? 'a list' })
      for (const t of THRESHOLDS) {
        const quarantine = this.clauses.thresholds?.[t]?.stop.quarantine
        if (quarantine !== undefined) addTo(this.#users, `quarantine ${quarantine}`, { owner: 'organisation', name: `the score (${t})` })
      }
    }
    return this.#users.get(`${to} ${id}`) ?? []
  }
}

interface Named { id: string, name: string, owner?: Owner }
const NAMED = { list: 'lists', phraseSet: 'phraseSets', quarantine: 'quarantines', rule: 'rules' } as const
type NamedKind = keyof typeof NAMED

const WORDS = {
  list: 'list',
  phraseSet: 'phrase set',
  quarantine: 'quarantine',
  rule: 'rule',
  upstreamVerdict: 'upstream filter header',
} as const

const nameKey = (what: NamedKind, owner: Owner | undefined, name: string) => `${what} ${owner ?? ''}\0${name.toLowerCase()}`
const useKey = (b: Assignment) => `${b.list} ${b.owner} ${b.side} ${b.direction ?? 'inbound'} ${b.state}`
const keysOf = (references: readonly Reference[]) => new Set(references.map(r => `${r.to} ${r.id}`))

type FoundProblem = Omit<ChangeProblem, 'change'>

function problemsOf(was: Owners, is: KnownNames, change: PolicyChange): FoundProblem[] {
  if (change.type !== 'put') return []
  switch (change.kind) {
    case 'list':
      return [...nameProblems(is, 'list', change.value), ...ownerProblems(was.of('list', change.value.id), change.value.owner, WORDS.list)]
    case 'phraseSet': {
      const set = change.value
      return [...nameProblems(is, 'phraseSet', set), ...ownerProblems(was.of('phraseSet', set.id), set.owner, WORDS.phraseSet)]
    }
    case 'quarantine':
      return nameProblems(is, 'quarantine', change.value)
    case 'rule':
      return [
        ...nameProblems(is, 'rule', change.value),
        ...ownerProblems(was.of('rule', change.value.id), change.value.owner, 'rule'),
        ...missing(is, rulesReferences(change.value), change.value.owner),
      ]
    case 'assignment':
      return [
        ...ownerProblems(was.of('assignment', change.value.id), change.value.owner, 'assignment'),
        ...missing(is, assignmentReferences(change.value), change.value.owner),
        ...useProblems(is, change.value as Assignment),
      ]
    case 'threshold':
      return missing(is, thresholdsReferences(change.value), 'organisation')
    case 'entries':
      return []
  }
}

function nameProblems(is: KnownNames, what: NamedKind, { id, name, owner }: Partial<Named> & { name: string }): FoundProblem[] {
  const taken = is.named(what, owner, name).some(other => other !== id)
  return taken ? [{ field: 'name', message: `A ${WORDS[what]} named “${name}” already exists. Choose another name.` }] : []
}

function ownerProblems(was: Owner | undefined, owner: Owner, what: string): FoundProblem[] {
  return was !== undefined && was !== owner
    ? [{ field: 'owner', message: `The owner of a ${what} cannot be changed. Create a copy for the other owner.` }]
    : []
}

/** What is said of a reference to what is not there; of what another may not know of, the same. */
export function missingWords(to: Reference['to'], id: string): string {
  return `${capitalised(WORDS[to])} “${id}” does not exist.`
}

/** References to what is not there. Somebody's own list or phrase set serves only them, and says not even that it is there. */
function missing(is: KnownNames, references: readonly Reference[], owner: Owner): FoundProblem[] {
  return references
    .filter(r => !isThere(is, r, owner))
    .map(({ to, id, path }) => ({
      field: path.slice(1).replaceAll('/', '.'),
      message: missingWords(to, id),
    }))
}

function isThere(is: KnownNames, { to, id }: Reference, owner: Owner): boolean {
  // Whom we believe is no part of the clauses; whoever knows it asks.
  if (to === 'upstreamVerdict') return true
  const theirs = is.ownerOf(to, id)
  return theirs !== false && (theirs === undefined || theirs === owner || !isPersonal(theirs))
}

// The same use twice says nothing more and is forgotten when one of the two is changed. One on trial beside one that acts is no such pair.
function useProblems(is: KnownNames, assignment: Assignment): FoundProblem[] {
  return is.usesLike(assignment).some(id => id !== assignment.id)
    ? [
        {
          field: 'side',
          message: 'The list already has this assignment, for the same recipients and direction. Change that assignment instead.',
        },
      ]
    : []
}

/** What refers to things that the changes took away. */
function leftBehind(before: Clauses, is: KnownNames, changes: readonly PolicyChange[]): ChangeProblem[] {
  const names = { list: before.lists, phraseSet: before.phraseSets, quarantine: before.quarantines }
  let known: Map<string, string> | undefined
  return changes.flatMap((change, i): ChangeProblem[] => {
    if (change.type !== 'remove' || !(change.kind === 'list' || change.kind === 'phraseSet' || change.kind === 'quarantine')) return []
    const { kind: to, id } = change
    if (to === 'quarantine' && before.quarantines.some(q => q.id === id && q.general))
      return [{ change: i, field: 'id', message: 'The general quarantine cannot be deleted: mail must have a place where it can be held.' }]
    if (is.ownerOf(to, id) !== false) return []
    const users = [...is.usersOf(to, id)]
    if (!users.length) return []
    known ??= new Map(Object.entries(names).flatMap(([what, things]) => things.map(t => [`${what} ${t.id}`, t.name] as const)))
    return [{ change: i, field: 'id', message: `“${known.get(`${to} ${id}`) ?? id}” is used by`, users }]
  })
}
