import isSame from 'fast-deep-equal'
import { entryKey } from '../kinds'
import {
  rulesReferences,
  type Assignment,
  type Claim,
  type Entry,
  type List,
  type PhraseSet,
  type Quarantine,
  type Rule,
} from '../policy'
import { RuleOrder } from './rule-order'
import type { Clauses, EntryPut, ListPut, PolicyChange, ClauseKind } from './types'
import { widens, type Wider } from './widens'

/** A list, and its entries by their keys once one of them was looked for. */
interface KnownList {
  list: List
  entries: Map<string, Entry> | null
}

/**
 * The clauses of a policy while changes are applied to them, one after the other. The time of each grows with what it changes, not with
 * the policy, nor with the changes before it: thousands of changes may come in one request.
 */
export class IndexedClauses<P extends Clauses> {
  readonly #policy: P
  readonly #lists: Map<string, KnownList>
  readonly #assignments: Map<string, Assignment>
  readonly #usesOfList = new Map<string, Set<string>>()
  readonly #sets: Map<string, PhraseSet>
  readonly #quarantines: Map<string, Quarantine>
  readonly #rules: RuleOrder
  #thresholds: P['thresholds']
  /** The clauses with a confirmation, by the lists and sets that they use: `list ID` and `set ID` to `assignment ID` and `rule ID`. */
  readonly #confirmed = new Map<string, Set<string>>()
  readonly #changed = new Set<keyof Clauses>()

  constructor(policy: P) {
    this.#policy = policy
    this.#lists = new Map(policy.lists.map(list => [list.id, { list, entries: null }]))
    this.#assignments = new Map(policy.assignments.map(b => [b.id, b]))
    this.#sets = new Map(policy.phraseSets.map(s => [s.id, s]))
    this.#quarantines = new Map(policy.quarantines.map(q => [q.id, q]))
    this.#rules = new RuleOrder(policy.rules)
    this.#thresholds = policy.thresholds
    for (const assignment of policy.assignments) this.#noteUse(assignment)
    for (const rule of policy.rules) this.#noteConfirmed(`rule ${rule.id}`, keysOfRule(rule))
  }

  list(id: string): List | undefined {
    return this.#lists.get(id)?.list
  }

  set(id: string): PhraseSet | undefined {
    return this.#sets.get(id)
  }

  entry(list: string, key: string): Entry | undefined {
    const known = this.#lists.get(list)
    return known && entriesOf(known).get(key)
  }

  /**
   * Makes one change. A confirmation that mail may be deleted permanently lapses when what it was given for becomes wider.
   * @returns what is not there, where it cannot be made
   */
  apply(change: PolicyChange): string | null {
    const wider = widens(this, change)
    const problem = this.replay(change)
    if (problem === null && wider) this.#lapse(wider)
    return problem
  }

  /** Makes a change of which what lapses is told by other changes. */
  replay(change: PolicyChange): string | null {
    if (change.type === 'order') {
      this.#changed.add('rules')
      return this.#rules.order(change.owner, change.ids)
        ? null
        : 'Rules were added or deleted in the meantime. Reload the page and order them again.'
    }
    if (change.type === 'remove') return change.kind === 'entries' ? this.#removeEntries(change) : this.#remove(change.kind, change.id)
    return this.#put(change)
  }

  /** What the changes came to. What none of them concerned is the same object as before. */
  clauses(): P {
    const of = <K extends keyof Clauses>(key: K, made: () => Clauses[K]) => (this.#changed.has(key) ? { [key]: made() } : {})
    return {
      ...this.#policy,
      ...of('lists', () => [...this.#lists.values()].map(({ list, entries }) =>
        (entries ? { ...list, entries: [...entries.values()] } : list))),
      ...of('assignments', () => [...this.#assignments.values()]),
      ...of('phraseSets', () => [...this.#sets.values()]),
      ...of('quarantines', () => [...this.#quarantines.values()]),
      ...of('rules', () => this.#rules.rules()),
      ...of('thresholds', () => this.#thresholds),
    }
  }

  #put(change: Extract<PolicyChange, { type: 'put' }>): string | null {
    switch (change.kind) {
      case 'entries': {
        const known = this.#lists.get(change.list)
        if (!known) return GONE_LIST
        const entries = entriesOf(known)
        for (const entry of change.entries) entries.set(entryKey(entry), putEntry(entry, entries.get(entryKey(entry))))
        this.#changed.add('lists')
        return null
      }
      case 'list':
        this.#putList(change.value as ListPut & { id: string })
        return null
      case 'assignment':
        this.#putUse(change.value as Assignment)
        return null
      case 'rule':
        this.#putRule(change.value as Rule)
        return null
      case 'phraseSet':
        this.#sets.set(change.value.id!, change.value as PhraseSet)
        this.#changed.add('phraseSets')
        return null
      case 'quarantine':
        this.#quarantines.set(change.value.id!, change.value as Quarantine)
        this.#changed.add('quarantines')
        return null
      case 'threshold': {
        const { id, ...threshold } = change.value
        this.#thresholds = { ...this.#thresholds, [id]: threshold }
        this.#changed.add('thresholds')
        return null
      }
    }
  }

  #putList(put: ListPut & { id: string }): void {
    const known = this.#lists.get(put.id)
    if (!put.entries)
      this.#lists.set(put.id, { list: { ...put, entries: known?.list.entries ?? [] }, entries: known?.entries ?? null })
    else {
      const before = known && entriesOf(known)
      this.#lists.set(put.id, { list: { ...put, entries: put.entries.map(e => putEntry(e, before?.get(entryKey(e)))) }, entries: null })
    }
    this.#changed.add('lists')
  }

  #putUse(assignment: Assignment): void {
    const before = this.#assignments.get(assignment.id)
    if (before) this.#forgetUse(before)
    this.#assignments.set(assignment.id, assignment)
    this.#noteUse(assignment)
    this.#changed.add('assignments')
  }

  #putRule(rule: Rule): void {
    const before = this.#rules.get(rule.id)
    // What was confirmed was the rule as it stood; changed, it is confirmed anew by saving it once more.
    const lapses = before !== undefined && hasConfirmed(before.claims) && asksElse(before, rule)
    this.#setRule(before, lapses ? { ...rule, claims: unconfirmed(rule.claims) } : rule)
  }

  #setRule(before: Rule | undefined, rule: Rule): void {
    if (before) this.#forgetConfirmed(`rule ${rule.id}`, keysOfRule(before))
    this.#rules.put(rule)
    this.#noteConfirmed(`rule ${rule.id}`, keysOfRule(rule))
    this.#changed.add('rules')
  }

  #removeEntries({ list, entries: gone }: Extract<PolicyChange, { type: 'remove', kind: 'entries' }>): string | null {
    const known = this.#lists.get(list)
    if (!known) return GONE_LIST
    const entries = entriesOf(known)
    for (const entry of gone) entries.delete(entryKey(entry))
    this.#changed.add('lists')
    return null
  }

  #remove(what: ClauseKind, id: string): string | null {
    const gone = `This ${what} no longer exists.`
    switch (what) {
      case 'list':
        if (!this.#lists.delete(id)) return gone
        this.#changed.add('lists')
        // A list goes with its uses.
        for (const assignment of [...(this.#usesOfList.get(id) ?? [])]) this.#remove('assignment', assignment)
        return null
      case 'assignment': {
        const assignment = this.#assignments.get(id)
        if (!assignment) return gone
        this.#forgetUse(assignment)
        this.#assignments.delete(id)
        this.#changed.add('assignments')
        return null
      }
      case 'rule': {
        const rule = this.#rules.get(id)
        if (!rule) return gone
        this.#forgetConfirmed(`rule ${id}`, keysOfRule(rule))
        this.#rules.remove(id)
        this.#changed.add('rules')
        return null
      }
      case 'phraseSet':
        this.#changed.add('phraseSets')
        return this.#sets.delete(id) ? null : gone
      case 'quarantine':
        this.#changed.add('quarantines')
        return this.#quarantines.delete(id) ? null : gone
      case 'threshold': {
        if (!this.#thresholds || !(id in this.#thresholds)) return gone
        const { [id as 'likely']: _, ...rest } = this.#thresholds
        this.#thresholds = rest
        this.#changed.add('thresholds')
        return null
      }
    }
  }

  #lapse(wider: Wider): void {
    for (const clause of [...(this.#confirmed.get('list' in wider ? `list ${wider.list}` : `set ${wider.set}`) ?? [])]) {
      const id = clause.slice(clause.indexOf(' ') + 1)
      if (clause.startsWith('assignment ')) {
        const assignment = this.#assignments.get(id)!
        this.#putUse({ ...assignment, stop: { to: assignment.stop!.to } })
      }
      else {
        const rule = this.#rules.get(id)!
        this.#setRule(rule, { ...rule, claims: unconfirmed(rule.claims) })
      }
    }
  }

  #noteUse(assignment: Assignment): void {
    add(this.#usesOfList, assignment.list, assignment.id)
    this.#noteConfirmed(`assignment ${assignment.id}`, keysOfAssignment(assignment))
  }

  #forgetUse(assignment: Assignment): void {
    this.#usesOfList.get(assignment.list)?.delete(assignment.id)
    this.#forgetConfirmed(`assignment ${assignment.id}`, keysOfAssignment(assignment))
  }

  #noteConfirmed(clause: string, keys: readonly string[]): void {
    for (const key of keys) add(this.#confirmed, key, clause)
  }

  #forgetConfirmed(clause: string, keys: readonly string[]): void {
    for (const key of keys) this.#confirmed.get(key)?.delete(clause)
  }
}

const GONE_LIST = 'This list no longer exists.'

function add(to: Map<string, Set<string>>, key: string, value: string): void {
  const values = to.get(key)
  if (values) values.add(value)
  else to.set(key, new Set([value]))
}

function entriesOf(known: KnownList): Map<string, Entry> {
  return (known.entries ??= new Map(known.list.entries.map(e => [entryKey(e), e])))
}

/** One that is there keeps its id, and since when and by whom it is there, unless it is put with just that id. */
function putEntry({ kind, value, note, expires, ...said }: EntryPut, there: Entry | undefined): Entry {
  const { id = '', addedAt, addedBy } = there && said.id !== there.id ? there : { ...there, ...said }
  return {
    id,
    kind,
    value,
    ...(note ? { note } : {}),
    ...(expires === undefined ? {} : { expires }),
    ...(addedAt === undefined ? {} : { addedAt }),
    ...(addedBy === undefined ? {} : { addedBy }),
  }
}

/** What a confirmed use or rule depends on, as `list ID` and `set ID`; empty where it has no confirmation. */
function keysOfAssignment({ list, stop }: Assignment): string[] {
  return stop?.confirmed ? [`list ${list}`] : []
}

function keysOfRule(rule: Rule): string[] {
  if (!hasConfirmed(rule.claims)) return []
  return rulesReferences(rule).flatMap(({ to, id }) => (to === 'list' ? [`list ${id}`] : to === 'phraseSet' ? [`set ${id}`] : []))
}

function asksElse(a: Rule, b: Rule): boolean {
  return !isSame(a.when, b.when) || !isSame(a.except, b.except)
}

function hasConfirmed(claims: readonly Claim[]): boolean {
  return claims.some(c => 'stop' in c && c.stop.confirmed)
}

/** The same claims without a confirmation. */
function unconfirmed(claims: readonly Claim[]): Claim[] {
  return claims.map(c => ('stop' in c && c.stop.confirmed ? { stop: { to: c.stop.to } } : c))
}
