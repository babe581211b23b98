import { isPersonal, rulesReferences, thresholdsReferences, usesReferences, type Binding, type Owner, type Reference } from '../policy'
import { THRESHOLDS, type ChangeProblem, type Clauses, type PolicyChange } from './types'

type Named = { id: string, name: string, owner?: Owner }

/** What is wrong with what changes come to: names that are taken, references to what is not there, the same thing twice. */
export function problemsIn(before: Clauses, after: Clauses, changes: readonly PolicyChange[]): ChangeProblem[] {
  const out: ChangeProblem[] = []
  let standing = before
  changes.forEach((change, i) => {
    out.push(...problemsOf(standing, after, change).map(p => ({ ...p, change: i })))
    standing = withoutRemoved(standing, change)
  })
  return [...out, ...leftBehind(before, after, changes)]
}

// What was taken away on the way is made anew, by whomever.
function withoutRemoved(standing: Clauses, change: PolicyChange): Clauses {
  if (!('remove' in change) || change.remove === 'entries') return standing
  const { remove, id } = change
  const stays = (thing: { id: string }) => thing.id !== id
  switch (remove) {
    case 'list':
      return { ...standing, lists: standing.lists.filter(stays), bindings: standing.bindings.filter(b => b.list !== id) }
    case 'use':
      return { ...standing, bindings: standing.bindings.filter(stays) }
    case 'rule':
      return { ...standing, rules: standing.rules.filter(stays) }
    case 'phrase set':
      return { ...standing, phraseSets: standing.phraseSets.filter(stays) }
    default:
      return standing
  }
}

type Found = Omit<ChangeProblem, 'change'>

function problemsOf(before: Clauses, after: Clauses, change: PolicyChange): Found[] {
  if (!('put' in change)) return []
  switch (change.put) {
    case 'list':
      return [...nameProblems(after.lists, change.list, 'list'), ...ownerProblems(before.lists, change.list, 'list')]
    case 'phrase set':
      return [
        ...nameProblems(after.phraseSets, change['phrase set'], 'phrase set'),
        ...ownerProblems(before.phraseSets, change['phrase set'], 'phrase set'),
      ]
    case 'quarantine':
      return nameProblems(after.quarantines, change.quarantine, 'quarantine')
    case 'rule':
      return [
        ...nameProblems(after.rules, change.rule, 'rule'),
        ...ownerProblems(before.rules, change.rule, 'rule'),
        ...missing(after, rulesReferences(change.rule), change.rule.owner),
      ]
    case 'use':
      return [
        ...ownerProblems(before.bindings, change.use, 'use of a list'),
        ...missing(after, usesReferences(change.use), change.use.owner),
        ...useProblems(after, change.use as Binding),
      ]
    case 'threshold':
      return missing(after, thresholdsReferences(change.threshold), 'organisation')
    case 'entries':
      return []
  }
}

function nameProblems(things: readonly Named[], { id, name, owner }: Partial<Named> & { name: string }, what: string): Found[] {
  const taken = things.some(t => t.id !== id && t.owner === owner && t.name.toLowerCase() === name.toLowerCase())
  return taken ? [{ field: 'name', message: `There is a ${what} “${name}” already. This name is taken; choose another.` }] : []
}

function ownerProblems(
  before: readonly { id: string, owner: Owner }[],
  { id, owner }: { id?: string, owner: Owner },
  what: string,
): Found[] {
  const was = before.find(t => t.id === id)
  return was && was.owner !== owner ? [{ field: 'owner', message: `A ${what} stays with its owner; make a copy for somebody else.` }] : []
}

/** References to what is not there. Somebody's own list or phrase set serves only them, and says not even that it is there. */
function missing(after: Clauses, references: readonly Reference[], owner: Owner): Found[] {
  return references
    .filter(r => !isThere(after, r, owner))
    .map(({ to, id, path }) => ({
      field: path.slice(1).replaceAll('/', '.'),
      message: `there is no ${to} “${id}” in this policy`,
    }))
}

function isThere(after: Clauses, { to, id }: Reference, owner: Owner): boolean {
  const serves = (thing: { id: string, owner: Owner }) => thing.id === id && (thing.owner === owner || !isPersonal(thing.owner))
  switch (to) {
    case 'list':
      return after.lists.some(serves)
    case 'phrase set':
      return after.phraseSets.some(serves)
    case 'quarantine':
      return after.quarantines.some(q => q.id === id)
    case 'upstream mark':
      // Whom we believe is no part of the clauses; whoever knows it asks.
      return true
  }
}

// The same use twice says nothing more and is forgotten when one of the two is changed. One on trial beside one that acts is no such pair.
function useProblems(after: Clauses, use: Binding): Found[] {
  const key = (b: Binding) => `${b.list} ${b.owner} ${b.side} ${b.direction ?? 'inbound'} ${b.state}`
  return after.bindings.some(b => b.id !== use.id && key(b) === key(use))
    ? [
        {
          field: 'side',
          message: 'The list is put to that use already, for the same people and direction. Change that use instead.',
        },
      ]
    : []
}

/** What refers to things that the changes took away. */
function leftBehind(before: Clauses, after: Clauses, changes: readonly PolicyChange[]): ChangeProblem[] {
  return changes.flatMap((change, i): ChangeProblem[] => {
    if (!('remove' in change) || !(change.remove === 'list' || change.remove === 'phrase set' || change.remove === 'quarantine')) return []
    const { remove: to, id } = change
    const quarantine = before.quarantines.find(q => q.id === id)
    if (to === 'quarantine' && quarantine?.general)
      return [{ change: i, field: 'id', message: 'The general quarantine stays: mail needs a place where it can be held.' }]
    const name = named(before, to, id)?.name ?? id
    if (named(after, to, id)) return []
    const rules = after.rules.filter(r => rulesReferences(r).some(x => x.to === to && x.id === id))
    const uses = to === 'quarantine' ? after.bindings.filter(b => usesReferences(b).some(x => x.to === to && x.id === id)) : []
    const thresholds = THRESHOLDS.filter(t => after.thresholds?.[t]?.stop.quarantine === id && to === 'quarantine')
    const users = [
      ...rules.map(r => ({ owner: r.owner, name: r.name })),
      ...uses.map(b => ({ owner: b.owner, name: after.lists.find(l => l.id === b.list)?.name ?? 'a list' })),
      ...thresholds.map(t => ({ owner: 'organisation', name: `the score (${t})` })),
    ]
    if (!users.length) return []
    return [{ change: i, field: 'id', message: `“${name}” is used by`, users }]
  })
}

function named(clauses: Clauses, what: 'list' | 'phrase set' | 'quarantine', id: string): Named | undefined {
  const things: Record<typeof what, readonly Named[]> = {
    'list': clauses.lists,
    'phrase set': clauses.phraseSets,
    'quarantine': clauses.quarantines,
  }
  return things[what].find(t => t.id === id)
}
