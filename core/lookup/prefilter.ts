import { factKind, kindOfFact, type Fact, type FactName } from '../kinds'
import type { Message, Trust } from '../message'
import type { CompiledRule, Look, Node } from '../policy'

/** A fact of a message that wakes the clauses that ask for it: the kind of condition, and the key that it waits for. */
export type FactKey = `${FactName} ${string}`

/** What wakes a rule; null where nothing does and it is always awake. */
export interface PrefilterKeys {
  looks: Look[]
  lists: string[]
  senders: Extract<Node, { op: 'sender' }>[]
  factKeys: FactKey[]
  expressions: Extract<Node, { op: 'expression' }>[]
}

/**
 * What must be found in a message for a rule to match at all: "all" is woken by its rarest member, "any" by each, "none"
 * and exceptions by nothing. A rule that could match without any of it is always awake.
 */
export function prefilterKeysOf(rule: CompiledRule): PrefilterKeys | null {
  return prefilterKeys(rule.when)
}

const NEVER: PrefilterKeys = { looks: [], lists: [], senders: [], factKeys: [], expressions: [] }

function prefilterKeys(node: Node): PrefilterKeys | null {
  switch (node.op) {
    case 'all': {
      if (!node.members.length) return NEVER
      const awake = node.members.map(prefilterKeys).filter(w => w !== null)
      return awake.length ? awake.reduce((a, b) => (rarity(b) < rarity(a) ? b : a)) : null
    }
    case 'any': {
      const all = node.members.map(prefilterKeys)
      if (all.includes(null)) return null
      return all.reduce<PrefilterKeys>(
        (a, b) => ({
          looks: [...a.looks, ...b!.looks],
          lists: [...a.lists, ...b!.lists],
          senders: [...a.senders, ...b!.senders],
          factKeys: [...a.factKeys, ...b!.factKeys],
          expressions: [...a.expressions, ...b!.expressions],
        }),
        NEVER,
      )
    }
    case 'none':
      return null
    case 'list':
      return { ...NEVER, lists: [node.list] }
    case 'sender':
      return { ...NEVER, senders: [node] }
    case 'phrases':
      return { ...NEVER, looks: [node.look] }
    case 'expression':
      return node.expression.literal === null ? null : { ...NEVER, expressions: [node] }
    case 'fact': {
      const gate = prefilterKeyOf(node.fact)
      return gate === null ? null : { ...NEVER, factKeys: [gate] }
    }
  }
}

// Senders are rarer than phrases, phrases rarer than facts; of phrases the longer, of lists the single entry.
function rarity(w: PrefilterKeys): number {
  const keys = w.looks.flatMap(l => l.items)
  const shortest = Math.min(12, ...keys.map(i => i.text.length))
  return (
    w.senders.length +
    w.lists.length * 2 +
    (keys.length ? 10 + keys.length - shortest / 12 : 0) +
    w.expressions.length * 20 +
    w.factKeys.length * 1000
  )
}

function prefilterKeyOf(fact: Fact): FactKey | null {
  const { kind, value } = kindOfFact(fact)
  const key = kind.prefilter?.by(value) ?? null
  return key === null ? null : `${kind.name} ${key}`
}

/** The kind of condition that a gate belongs to. */
export function kindOfKey(gate: FactKey): FactName {
  return gate.slice(0, gate.indexOf(' ')) as FactName
}

/** The gates that a message opens. @param kinds of those kinds of conditions */
export function openedKeys(message: Message, trust: Trust, kinds: Iterable<FactName>): FactKey[] {
  const factKeys: FactKey[] = []
  for (const name of kinds) for (const key of factKind(name).prefilter?.opened(message, trust) ?? []) factKeys.push(`${name} ${key}`)
  return factKeys
}
