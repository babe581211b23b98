import { isAtOrBelow, registrableDomain } from '../address'
import { entryKey, entryKindOf, entryWords, type EntryKind, type EntryText, type ReadLines } from '../kinds'
import type { EntryTable } from '../lookup'
import type { Assignment, List, Policy } from '../policy'

export const LINE_OUTCOMES = ['new', 'in part', 'there', 'twice', 'covered', 'contrary', 'doubtful', 'not understood'] as const
/** What becomes of one line of what is pasted into a list. Covered, contrary and doubtful ones are added all the same. */
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
type Read = Pick<ReadLines, 'wrong' | 'twice' | 'partly' | 'at'> & { good: readonly EntryText[] }

/**
 * What becomes of each line that is pasted into a list: the owner's other lists are asked, too, as far as they are put to use.
 * @param table every entry of every list, by the number of its list in the policy
 * @param list number of the list
 */
export function pasteReport(policy: PolicyAround, table: EntryTable, list: number, read: Read): LineReport[] {
  const pasted = new Set(read.good.map(entryKey))
  const sides = sidesOf(policy, list)
  const around = { policy, table, list, sides, pasted, excepted: exceptedBy(table, sides, read.good) }
  const partly = new Map(read.partly.map(p => [p.line, p.text]))
  const out: LineReport[] = [
    ...read.wrong.map(({ line, text, error }): LineReport => ({ line, text, outcome: 'not understood', why: error })),
    ...read.twice.map(({ line, text, first }): LineReport => ({
      line,
      text,
      outcome: 'twice',
      why: `duplicate of line ${first} in your text`,
    })),
    ...read.good.map((entry, i): LineReport => {
      const line = read.at[i]!
      const became = outcomeOf(entry, around)
      const of = partly.get(line)
      const isPart = became.outcome === 'new' && of !== undefined
      return { line, text: shown(entry), ...(isPart ? { outcome: 'in part', why: `the rest is left out of “${of}”` } : became) }
    }),
  ]
  return out.sort((a, b) => a.line - b.line)
}

/** What is asked of the policy: of its trust, whose domains are everybody's, and whose are ours. */
export type PolicyAround = Pick<Policy, 'lists' | 'assignments'> & { trust: Pick<Policy['trust'], 'publicProviders' | 'ownDomains'> }

interface Around {
  policy: PolicyAround
  table: EntryTable
  list: number
  sides: Sides
  pasted: ReadonlySet<string>
  /** Narrower entries of lists that do the contrary, by the key of the pasted one that includes them. */
  excepted: ReadonlyMap<string, Excepted>
}

interface Excepted {
  first: EntryText
  list: number
  count: number
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
  const doubt = doubtOf(entry, around)
  return doubt === null ? { outcome: 'new', why: '' } : { outcome: 'doubtful', why: doubt }
}

/** Why somebody should look at an entry before it is added; the gravest reason. */
function doubtOf(entry: EntryText, { policy, sides, excepted }: Around): string | null {
  const { ownDomains, publicProviders = [] } = policy.trust
  const domain = entryKindOf(entry.kind).domain(entry.value)
  const isDomain = domain !== null && domain === entry.value
  if (isDomain && registrableDomain(domain) === null)
    return `“${domain}” is a top-level domain or another ending under which anyone can register: this is not one sender’s domain`
  const own = domain === null
    ? undefined
    : ownDomains.find(d => d === domain || (entry.kind === 'domainAndSubdomains' && isAtOrBelow(d, domain)))
  if (own !== undefined && (isDomain || sides.own === 'block'))
    return isDomain ? `${own} is one of your own domains` : `this is an address at your own domain ${own}`
  if (isDomain && publicProviders.includes(domain))
    return `${domain} is a public mailbox provider: anyone can have an address there`
  const except = excepted.get(entryKey(entry))
  if (!except) return null
  const more = except.count > 1 ? ` and ${except.count - 1} more` : ''
  const does = sides.own === 'block' ? 'allowed' : 'blocked'
  return `includes ${shown(except.first)}${more}, ${does} by list “${policy.lists[except.list]!.name}”: the narrower entry comes first`
}

function exceptedBy(table: EntryTable, { contrary }: Sides, good: readonly EntryText[]): Map<string, Excepted> {
  const out = new Map<string, Excepted>()
  const wide = new Set(good.filter(e => e.kind === 'domain' || e.kind === 'domainAndSubdomains').map(entryKey))
  if (!wide.size || !contrary.size) return out
  for (const [list, entries] of table.byList()) {
    if (!contrary.has(list)) continue
    for (const i of entries) {
      const { kind, value } = table.entry(i)
      for (const wider of entryKindOf(kind).wider(value)) {
        const key = entryKey(wider)
        if (!wide.has(key)) continue
        const known = out.get(key)
        if (known) known.count++
        else out.set(key, { first: { kind, value }, list, count: 1 })
      }
    }
  }
  return out
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
