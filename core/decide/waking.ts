import type { CompiledRule, Fact, Look, Node } from '../policy'
import type { Message } from '../message'

/** Facts of a message that wake the clauses that ask for them. */
export type Gate = 'attachment' | 'mailing list' | 'important' | 'defect' | 'upstream mark' | `header:${string}`

/** What wakes a rule; null where nothing does and it is always awake. */
export interface Wakers {
  looks: Look[]
  lists: string[]
  senders: Extract<Node, { op: 'sender' }>[]
  gates: Gate[]
  expressions: Extract<Node, { op: 'expression' }>[]
}

/**
 * What must be found in a message for a rule to match at all: "all" is woken by its rarest member, "any" by each, "none"
 * and exceptions by nothing. A rule that could match without any of it is always awake.
 */
export function wakersOf(rule: CompiledRule): Wakers | null {
  return wakers(rule.when)
}

const NEVER: Wakers = { looks: [], lists: [], senders: [], gates: [], expressions: [] }

function wakers(node: Node): Wakers | null {
  switch (node.op) {
    case 'all': {
      if (!node.members.length) return NEVER
      const awake = node.members.map(wakers).filter(w => w !== null)
      return awake.length ? awake.reduce((a, b) => (rarity(b) < rarity(a) ? b : a)) : null
    }
    case 'any': {
      const all = node.members.map(wakers)
      if (all.includes(null)) return null
      return all.reduce<Wakers>(
        (a, b) => ({
          looks: [...a.looks, ...b!.looks],
          lists: [...a.lists, ...b!.lists],
          senders: [...a.senders, ...b!.senders],
          gates: [...a.gates, ...b!.gates],
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
      const gate = gateOf(node.fact)
      return gate === null ? null : { ...NEVER, gates: [gate] }
    }
  }
}

// Senders are rarer than phrases, phrases rarer than facts; of phrases the longer, of lists the single entry.
function rarity(w: Wakers): number {
  const keys = w.looks.flatMap(l => l.items)
  const shortest = Math.min(12, ...keys.map(i => i.text.length))
  return (
    w.senders.length +
    w.lists.length * 2 +
    (keys.length ? 10 + keys.length - shortest / 12 : 0) +
    w.expressions.length * 20 +
    w.gates.length * 1000
  )
}

function gateOf(fact: Fact): Gate | null {
  if ('attachment' in fact) return 'attachment'
  if ('attachments' in fact) return (fact.attachments.atLeast ?? 0) > 0 ? 'attachment' : null
  if ('mailingList' in fact) return 'mailing list'
  if ('important' in fact) return 'important'
  if ('defect' in fact) return 'defect'
  if ('markedUpstream' in fact) return 'upstream mark'
  if ('header' in fact) return `header:${fact.header}`
  return null
}

/** The gates that a message opens. */
export function openGates({ content, attempt }: Message): Set<Gate> {
  const gates = new Set<Gate>()
  if (content.attachments.length) gates.add('attachment')
  if (content.list.id !== null || content.list.unsubscribe.length || content.list.precedence !== null) gates.add('mailing list')
  if (content.important) gates.add('important')
  if (content.defects.length || attempt.defects.length) gates.add('defect')
  if (content.upstreamMark !== null) gates.add('upstream mark')
  return gates
}
