import { addTo } from '../add-to'
import { matchesInOrder, type Candidates, type Copy, type EntryHit, type Finder, type Looking, type Match, type Subject } from '../decide'
import { entryKey } from '../kinds'
import type { CompiledPolicy, CompiledRule, Entry, Look, Node, Policy } from '../policy'
import { buildEntryTable } from './entry-table-builder'
import { IndexedPolicy } from './indexed'
import type { Bound } from './indexed-build'
import { prefilterKeysOf } from './prefilter'
import { tierKey } from '../policy'

/** What of a policy is otherwise than in the one that is indexed. */
export interface Differing {
  /** Ids of the rules and the uses that say something else, or come or go; those of which what they refer to does so, too. */
  rules: ReadonlySet<string>
  assignments: ReadonlySet<string>
  /** By list: keys of entries that stand otherwise, or not at all; and those that stand there instead. */
  entries: ReadonlyMap<string, { gone: ReadonlySet<string>, put: readonly Entry[] }>
}

/**
 * A policy that differs a little from one that is indexed. Only what differs is compiled and indexed anew; all else is asked of
 * the other's indexes. It decides as the whole of it would, and says at little cost what just the differing clauses find.
 */
export class ChangedPolicy implements Looking {
  readonly compiled: CompiledPolicy
  /** The clauses that differ, by themselves. */
  private readonly own: IndexedPolicy
  private readonly ranks: ReadonlyMap<string, number>
  private readonly ownRules: readonly CompiledRule[]
  /** Those that wait for an entry of a list: most entries are known to the other's indexes alone, so these are always looked at. */
  private readonly waitingForLists: readonly CompiledRule[]
  private readonly ownAssignments = new Map<string, Bound[]>()
  private readonly ownNodes = new Set<Node>()
  private readonly ownLooks = new Set<Look>()

  /** @param policy of the same people, departments and trust; its lists may come without entries */
  constructor(
    private readonly base: IndexedPolicy,
    policy: Policy,
    private readonly differing: Differing,
  ) {
    const lists = policy.lists.map(l => ({ ...l, entries: [...(differing.entries.get(l.id)?.put ?? [])] }))
    const rules = policy.rules.filter(r => differing.rules.has(r.id))
    this.own = IndexedPolicy.build(
      { ...policy, lists, rules, assignments: [] },
      buildEntryTable(lists.flatMap((l, list) => l.entries.map(entry => ({ list, entry })))),
    )
    this.ownRules = this.own.compiled.rules
    this.waitingForLists = this.ownRules.filter(r => prefilterKeysOf(r)?.lists.length)
    this.ranks = new Map(policy.rules.map((r, i) => [r.id, i]))
    for (const rule of this.ownRules) [rule.when, ...rule.except].forEach(n => this.note(n))
    const heads = new Map(policy.lists.map(l => [l.id, l]))
    for (const assignment of policy.assignments) {
      const list = heads.get(assignment.list)
      if (!differing.assignments.has(assignment.id) || !list?.enabled || assignment.state === 'disabled') continue
      addTo(this.ownAssignments, tierKey({ owner: assignment.owner, mandatory: assignment.mandatory === true }), { assignment, list })
    }
    const { people, userNames, recipients, assignments } = base.compiled
    this.compiled = { policy, lists: heads, rules: [...this.ownRules], assignments, people, userNames, recipients }
  }

  private note(node: Node): void {
    if (node.op === 'all' || node.op === 'any' || node.op === 'none') node.members.forEach(m => this.note(m))
    else if (node.op === 'sender') this.ownNodes.add(node)
    else if (node.op === 'phrases') this.ownLooks.add(node.look)
  }

  subject(copy: Copy): { subject: Subject, candidates: Candidates } {
    const [there, own] = [this.base.subject(copy), this.own.subject(copy)]
    const finder: Finder = {
      listHits: list => this.hitsOn(list, there.subject.finder.listHits(list), own.subject.finder),
      entryHits: node => (this.ownNodes.has(node) ? own : there).subject.finder.entryHits(node),
      lookHits: look => (this.ownLooks.has(look) ? own : there).subject.finder.lookHits(look),
    }
    // What stands outside subject and text comes behind them, where it is asked for at all.
    const textSpans = own.subject.textSpans.length > there.subject.textSpans.length ? own.subject.textSpans : there.subject.textSpans
    const rules = [...there.candidates.rules.filter(r => !this.differing.rules.has(r.rule.id)), ...this.awake(own.candidates)]
    const others = there.candidates
    return {
      subject: { ...copy, compiled: this.compiled, textSpans, finder },
      candidates: {
        rules: rules.sort((a, b) => this.ranks.get(a.rule.id)! - this.ranks.get(b.rule.id)!),
        assignments: tier => [
          ...others.assignments(tier).filter(b => !this.differing.assignments.has(b.assignment.id)),
          ...(this.ownAssignments.get(tier) ?? []),
        ],
        anyAssignment: others.anyAssignment || this.ownAssignments.size > 0,
      },
    }
  }

  /** What the differing clauses alone find in a copy. @param tiers see `matchesInOrder` */
  ownMatches(copy: Copy, tiers: readonly string[]): Match[] {
    if (!this.ownRules.length && !this.ownAssignments.size) return []
    const own = this.own.subject(copy)
    let there: ReturnType<IndexedPolicy['listHits']> | null = null
    const finder: Finder = {
      ...own.subject.finder,
      // Most clauses ask for no list, and then nobody is looked up.
      listHits: list => this.hitsOn(list, (there ??= this.base.listHits(copy))(list), own.subject.finder),
    }
    return matchesInOrder({ ...own.subject, compiled: this.compiled, finder }, tiers, {
      rules: this.awake(own.candidates),
      assignments: tier => this.ownAssignments.get(tier) ?? [],
      anyAssignment: this.ownAssignments.size > 0,
    })
  }

  /** The differing rules that may match, in their order. */
  private awake({ rules }: Candidates): readonly CompiledRule[] {
    if (!this.waitingForLists.length) return rules
    return [...new Set([...rules, ...this.waitingForLists])].sort((a, b) => a.rank - b.rank)
  }

  private hitsOn(list: string, there: EntryHit[], own: Finder): EntryHit[] {
    const differing = this.differing.entries.get(list)
    if (!differing) return there
    return [...there.filter(h => !differing.gone.has(entryKey(h.entry))), ...own.listHits(list)]
  }
}
