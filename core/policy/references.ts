import { kindOfFact } from '../kinds'
import { departmentIn, personIn } from './owners'
import { groupMembers, isFact, type Assignment, type Condition, type Policy, type Rule, type Threshold } from './types'

/** Something that a clause names by its id. */
export interface Reference {
  to: 'list' | 'phraseSet' | 'quarantine' | 'upstreamVerdict'
  id: string
  /** Where it stands in the clause, as a JSON Pointer (RFC 6901). */
  path: string
}

/** What a rule refers to. */
export function rulesReferences({ when, except, claims }: Pick<Rule, 'when' | 'except' | 'claims'>): Reference[] {
  return [
    ...conditionsReferences(when, '/when'),
    ...except.flatMap((c, i) => conditionsReferences(c, `/except/${i}`)),
    ...claims.flatMap((c, i) => ('stop' in c ? stopsReferences(c.stop.quarantine, `/claims/${i}/stop`) : [])),
  ]
}

/** What a use of a list refers to. */
export function assignmentReferences({ list, stop }: Pick<Assignment, 'list' | 'stop'>): Reference[] {
  return [{ to: 'list', id: list, path: '/list' }, ...stopsReferences(stop?.quarantine, '/stop')]
}

/** What a threshold refers to. */
export function thresholdsReferences({ stop }: Pick<Threshold, 'stop'>): Reference[] {
  return stopsReferences(stop.quarantine, '/stop')
}

function stopsReferences(quarantine: string | undefined, path: string): Reference[] {
  return quarantine === undefined ? [] : [{ to: 'quarantine', id: quarantine, path: `${path}/quarantine` }]
}

function conditionsReferences(c: Condition, path: string): Reference[] {
  if ('senderOn' in c) return [{ to: 'list', id: c.senderOn, path: `${path}/senderOn` }]
  if ('set' in c && c.set !== undefined) return [{ to: 'phraseSet', id: c.set, path: `${path}/set` }]
  if (isFact(c)) {
    const { kind, value } = kindOfFact(c)
    const verdict = kind.refers?.(value)?.verdict
    return verdict === undefined ? [] : [{ to: 'upstreamVerdict', id: verdict, path: `${path}/${kind.name}` }]
  }
  const joint = 'all' in c ? 'all' : 'any' in c ? 'any' : 'none'
  return groupMembers(c)?.flatMap((member, i) => conditionsReferences(member, `${path}/${joint}/${i}`)) ?? []
}

/** One thing that is wrong with a policy. */
export interface PolicyProblem {
  /** JSON Pointer (RFC 6901) to the value. */
  path: string
  message: string
}

/** References to a list, set, quarantine, mark, department or person that is not there. */
export function danglingReferences(policy: Policy): PolicyProblem[] {
  const ids = (things: readonly { id: string }[]) => new Set(things.map(t => t.id))
  const known: Record<Reference['to'] | 'department' | 'person', Set<string>> = {
    list: ids(policy.lists),
    phraseSet: ids(policy.phraseSets),
    quarantine: ids(policy.quarantines),
    upstreamVerdict: ids(policy.trust.upstreamVerdicts ?? []),
    department: ids(policy.departments),
    person: ids(policy.people),
  }
  const problems: PolicyProblem[] = []
  const need = (to: keyof typeof known, id: string | null | undefined, path: string) => {
    if (id !== null && id !== undefined && !known[to].has(id))
      problems.push({ path, message: `${to} “${id}” does not exist in this policy` })
  }
  const needOwner = (owner: string, path: string) => {
    need('department', departmentIn(owner), path)
    need('person', personIn(owner), path)
  }
  const needAll = (references: readonly Reference[], at: string) => references.forEach(r => need(r.to, r.id, at + r.path))
  policy.departments.forEach((d, i) => need('department', d.parent, `/departments/${i}/parent`))
  policy.people.forEach((p, i) => p.departments.forEach((d, j) => need('department', d, `/people/${i}/departments/${j}`)))
  policy.lists.forEach((l, i) => needOwner(l.owner, `/lists/${i}/owner`))
  policy.assignments.forEach((b, i) => {
    needOwner(b.owner, `/assignments/${i}/owner`)
    needAll(assignmentReferences(b), `/assignments/${i}`)
  })
  for (const [name, t] of Object.entries(policy.thresholds ?? {})) if (t) needAll(thresholdsReferences(t), `/thresholds/${name}`)
  policy.rules.forEach((r, i) => {
    needOwner(r.owner, `/rules/${i}/owner`)
    needAll(rulesReferences(r), `/rules/${i}`)
  })
  return problems
}
