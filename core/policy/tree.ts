import type { EntryText, Fact } from '../kinds'
import { countsOf } from './owners'
import { phraseKeys, type PhraseKey } from '../text'
import { compileExpression, type Expression } from './expressions'
import {
  ruleProtects,
  ruleStops,
  sendersOfCondition,
  type Near,
  type Condition,
  type Counts,
  type PhraseCondition,
  type PhraseItem,
  type PhrasePlace,
  type PhraseSet,
  type Rule,
} from './types'

/** A phrase with the keys under which it is sought. */
export interface LookItem {
  text: string
  weight: number
  keys: PhraseKey[]
  near: { items: { text: string, keys: PhraseKey[] }[], within: number | null } | null
}

/** One look for phrases: what, where, how. */
export interface Look {
  items: LookItem[]
  whole: boolean
  /** Null: any one phrase. */
  minimum: number | null
  places: ReadonlySet<string>
  /** It works in favour of the copy: hits in hidden text are told, and do not count. */
  exempts: boolean
}

/** A condition made ready: sets resolved, defaults filled in, and in whose favour it works. */
export type Node =
  | { op: 'all' | 'any' | 'none', members: Node[] }
  | { op: 'sender', entry: EntryText, counts: Counts, exempts: boolean }
  | { op: 'list', list: string, counts: Counts, exempts: boolean }
  | { op: 'phrases', look: Look }
  | { op: 'expression', expression: Expression, source: string, places: ReadonlySet<string>, exempts: boolean }
  | { op: 'fact', fact: Fact }

export interface RuleTree {
  when: Node
  except: Node[]
}

/** Where phrases look that stop, unless it is said otherwise; and those that protect or exempt. */
export const STOPPING: readonly PhrasePlace[] = ['subject', 'own', 'quoted', 'hidden']
export const EXEMPTING: readonly PhrasePlace[] = ['subject', 'own']

/** The conditions of a rule, made ready. What protects is worked out from where a condition stands. */
export function ruleTree(rule: Rule, sets: ReadonlyMap<string, PhraseSet>): RuleTree {
  return {
    when: nodeOf(rule.when, { sets, rule, exempts: ruleProtects(rule) }),
    except: rule.except.map(c => nodeOf(c, { sets, rule, exempts: ruleStops(rule) })),
  }
}

interface Around {
  sets: ReadonlyMap<string, PhraseSet>
  rule: Pick<Rule, 'mandatory'>
  /** What stands here works in favour of the copy. */
  exempts: boolean
}

function nodeOf(c: Condition, around: Around): Node {
  const { sets, rule, exempts } = around
  if ('all' in c) return { op: 'all', members: c.all.map(m => nodeOf(m, around)) }
  if ('any' in c) return { op: 'any', members: c.any.map(m => nodeOf(m, around)) }
  if ('none' in c) return { op: 'none', members: c.none.map(m => nodeOf(m, { ...around, exempts: !exempts })) }
  if ('sender' in c) {
    const counts = countsOf({ ...rule, counts: c.counts })
    const each = sendersOfCondition(c).map(entry => ({ op: 'sender' as const, entry, counts, exempts }))
    return each.length === 1 ? each[0]! : { op: 'any', members: each }
  }
  if ('senderOn' in c) return { op: 'list', list: c.senderOn, counts: countsOf({ ...rule, counts: c.counts }), exempts }
  if ('expression' in c) {
    const expression = compileExpression(c.expression)
    // The door refuses what cannot be read; should it come all the same, it matches nothing.
    if ('error' in expression) return { op: 'any', members: [] }
    return { op: 'expression', expression, source: c.expression, places: new Set(c.where ?? (exempts ? EXEMPTING : STOPPING)), exempts }
  }
  if ('phrases' in c || 'set' in c) return { op: 'phrases', look: lookOf(c, sets, exempts) }
  return { op: 'fact', fact: c }
}

function lookOf(c: PhraseCondition, sets: ReadonlyMap<string, PhraseSet>, exempts: boolean): Look {
  const set = c.set === undefined ? null : sets.get(c.set)
  const items: readonly PhraseItem[] = c.phrases ?? set?.phrases ?? []
  const view = c.view ?? 'plain'
  const nearItems = (near: Near | undefined) =>
    near ? { items: near.phrases.map(text => ({ text, keys: phraseKeys(text, view) })), within: near.within ?? null } : null
  return {
    items: items.map((item) => {
      const written = typeof item === 'string' ? { text: item } : item
      return {
        text: written.text,
        weight: written.weight ?? 1,
        keys: phraseKeys(written.text, view),
        near: nearItems(written.near ?? c.near),
      }
    }),
    whole: c.whole ?? true,
    minimum: c.minimum ?? set?.minimum ?? null,
    places: new Set(c.where ?? (exempts ? EXEMPTING : STOPPING)),
    exempts,
  }
}
