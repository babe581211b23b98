import { entryKey, entryKindOf, entryWords, type EntryKind, type EntryText, type ReadLines } from '../kinds'
import type { EntryTable } from '../lookup'
import type { Assignment, List, Policy } from '../policy'

export const LINE_OUTCOMES = ['new', 'there', 'twice', 'covered', 'contrary', 'not understood'] as const
/** What becomes of one line of what is pasted into a list. Covered and contrary ones are added all the same. */
export type LineOutcome = (typeof LINE_OUTCOMES)[number]

export interface LineReport {
  /** From 1. */
  line: number
  text: string
  outcome: LineOutcome
  /** By what, or why; empty where it is simply new. */
  why: string
}

/** Entries as they were read, with the lines on which they stand. */
type Read = Pick<ReadLines, 'wrong' | 'twice' | 'at'> & { good: readonly EntryText[] }

/**
 * What becomes of each line that is pasted into a list: the owner's other lists are asked, too, as far as they are put to use.
 * @param table every entry of every list, by the number of its list in the policy
 * @param list number of the list
 */
export function pasteReport(policy: Pick<Policy, 'lists' | 'assignments'>, table: EntryTable, list: number, read: Read): LineReport[] {
  const pasted = new Set(read.good.map(entryKey))
  const around = { policy, table, list, sides: sidesOf(policy, list), pasted }
  const out: LineReport[] = [
    ...read.wrong.map(({ line, text, error }): LineReport => ({ line, text, outcome: 'not understood', why: error })),
    ...read.twice.map(({ line, text, first }): LineReport => ({
      line,
      text,
      outcome: 'twice',
      why: `duplicate of line ${first} in your text`,
    })),
    ...read.good.map((entry, i): LineReport => ({ line: read.at[i]!, text: shown(entry), ...outcomeOf(entry, around) })),
  ]
  return out.sort((a, b) => a.line - b.line)
}

interface Around {
  policy: Pick<Policy, 'lists'>
  table: EntryTable
  list: number
  sides: Sides
  pasted: ReadonlySet<string>
}

function outcomeOf(entry: EntryText, around: Around): Pick<LineReport, 'outcome' | 'why'> {
  const { policy, table, list, sides, pasted } = around
  const name = (at: number) => (at === list ? 'this list' : `list “${policy.lists[at]!.name}”`)
  const equal = listsWith(table, entry)
  if (equal.includes(list)) return { outcome: 'there', why: 'already on this list' }
  const against = equal.find(at => sides.contrary.has(at))
  if (against !== undefined) return { outcome: 'contrary', why: contraryWords(name(against), sides) }
  const same = equal.find(at => sides.same.has(at))
  if (same !== undefined) return { outcome: 'covered', why: `already on ${name(same)}, which does the same` }
  for (const { kind, value } of entryKindOf(entry.kind).wider(entry.value)) {
    const wider = { kind: kind as EntryKind, value }
    if (pasted.has(entryKey(wider))) return { outcome: 'covered', why: `${shown(wider)} in your text includes it` }
    const on = listsWith(table, wider).find(at => at === list || sides.same.has(at))
    if (on !== undefined) return { outcome: 'covered', why: `${shown(wider)} on ${name(on)} already includes it` }
  }
  return { outcome: 'new', why: '' }
}

function listsWith(table: EntryTable, entry: EntryText): number[] {
  const out: number[] = []
  table.findEqual(entry, i => out.push(table.listOf(i)))
  return out
}

interface Sides {
  /** How this list is put to use, or usually is. */
  own: 'allow' | 'block'
  /** Numbers of the same owner's other lists that do the same, and that do the contrary. */
  same: ReadonlySet<number>
  contrary: ReadonlySet<number>
}

function sidesOf({ lists, assignments }: Pick<Policy, 'lists' | 'assignments'>, list: number): Sides {
  const { id, owner, usualSide } = lists[list]!
  const enabled = assignments.filter(b => b.state === 'enabled' && b.owner === owner)
  const own = enabled.find(b => b.list === id)?.side ?? usualSide
  const on = (side: Assignment['side']) =>
    new Set(lists.flatMap((l: List, at) => (at !== list && l.enabled && enabled.some(b => b.list === l.id && b.side === side) ? [at] : [])))
  return { own, same: on(own), contrary: on(own === 'allow' ? 'block' : 'allow') }
}

// Of two entries that say the same of one owner the block comes first.
function contraryWords(name: string, { own }: Sides): string {
  return own === 'block' ? `${name} allows it; the block takes precedence` : `${name} blocks it; the block takes precedence`
}

function shown({ kind, value }: EntryText): string {
  return entryWords({ kind, value })
}
