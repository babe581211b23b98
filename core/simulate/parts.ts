import { directionOf, stagesOf, type Copy } from '../decide'
import type { ChangedPolicy, IndexedPolicy } from '../lookup'
import type { PolicyChange } from '../change'
import type { Message } from '../message'
import {
  groupMembers,
  phraseText,
  recipientOf,
  sendersOfCondition,
  type Condition,
  type PhraseCondition,
  type PhraseItem,
  type Rule,
} from '../policy'
import { pairOf } from './simulate'
import type { Marks } from './impact'

/** What of a rule is counted by itself: a condition, one phrase of it, or an exception. */
export interface Part {
  /** "when.0", "except.1": among the members of its conditions, or its exceptions. */
  path: string
  phrase: string | null
  /** The rule as if this alone were there: what it catches; null where that is what the whole catches. */
  alone: Rule | null
  /** The rule as if it were not there; null where nothing would be left. */
  without: Rule | null
}

/** What one part of a rule does to the mail that is here. */
export interface PartImpact extends Pick<Part, 'path' | 'phrase'> {
  /** What it catches: a phrase together with what else has to hold, a condition by itself. */
  catches: Marks
  /** Where it was found, but an exception of the rule applies. */
  excepted: Marks
  /** What is caught only through it; of an exception, what it exempts. Null where that is not counted. */
  only: Marks | null
}

/**
 * Of so many phrases it is told what each does. All variants together hold so many conditions and phrases: a rule of many
 * large conditions would otherwise be written out as often as it has parts.
 */
const MAX_PHRASES = 500
const MAX_WRITTEN = 40_000

/** The parts of a rule that are worth counting apart; of a large one fewer of them. */
export function partsOf(rule: Rule): Part[] {
  const members = 'all' in rule.when ? rule.when.all : 'any' in rule.when ? rule.when.any : [rule.when]
  const joint = 'any' in rule.when ? 'any' : 'all'
  const joined = (conditions: Condition[]): Rule | null =>
    conditions.length ? { ...rule, when: conditions.length === 1 ? conditions[0]! : ({ [joint]: conditions } as Condition) } : null
  const changed = (i: number, condition: Condition) => joined(members.map((m, at) => (at === i ? condition : m)))
  const whole = [rule.when, ...rule.except].reduce((n, c) => n + sizeOf(c), 0)
  const out: Part[] = []
  let written = 0
  const isRoom = (size: number) => {
    if (written + size > MAX_WRITTEN) return false
    written += size
    return true
  }
  const others = (member: Condition) => whole - sizeOf(member)
  members.forEach((member, i) => {
    if (members.length < 2) return
    const alone = isRoom(sizeOf(member)) ? { ...rule, when: member, except: [] } : null
    const without = isRoom(others(member)) ? joined(members.filter(m => m !== member)) : null
    if (alone || without) out.push({ path: `when.${i}`, phrase: null, alone, without })
  })
  rule.except.forEach((exception, i) => {
    if (!isRoom(others(exception))) return
    out.push({ path: `except.${i}`, phrase: null, alone: null, without: { ...rule, except: rule.except.filter((_, n) => n !== i) } })
  })
  members.forEach((member, i) => {
    if (!('phrases' in member) || !member.phrases || member.phrases.length < 2) return
    const { phrases } = member
    // Of all of them or of none: what only some of them do would mislead.
    const apart = phrases.length * whole <= MAX_WRITTEN / 2
    phrases.slice(0, MAX_PHRASES).forEach((item, at) => {
      const one = holding(member, [item])
      const alone = member.minimum === undefined && isRoom(others(member) + 1)
        ? (joint === 'any' ? { ...rule, when: one } : changed(i, one))
        : null
      const without = apart && isRoom(whole) ? changed(i, holding(member, phrases.filter((_, n) => n !== at))) : null
      if (alone || without) out.push({ path: `when.${i}`, phrase: phraseText(item), alone, without })
    })
  })
  const rank = ({ path }: Part) => (path.startsWith('except') ? 1 : 0)
  return out.sort((a, b) => rank(a) - rank(b))
}

/** How many conditions, phrases and senders a condition is written with. */
function sizeOf(c: Condition): number {
  const members = groupMembers(c)
  if (members) return members.reduce((n, m) => n + sizeOf(m), 1)
  if ('phrases' in c && c.phrases) return 1 + c.phrases.length + (c.near?.phrases.length ?? 0)
  return 'sender' in c ? sendersOfCondition(c).length : 1
}

function holding(member: PhraseCondition, phrases: PhraseItem[]): Condition {
  return { ...member, set: undefined, phrases } as Condition
}

/** Counts, copy by copy, what the parts of a rule find. */
export class PartCounter {
  private readonly ids: { whole: string, parts: { alone: string | null, without: string | null }[] }
  private readonly policy: ChangedPolicy
  private readonly whole = nothing()
  private readonly found: { alone: Marks, excepted: Marks, kept: Marks, more: Marks }[]

  /** @param base the active policy; the rule may be one of it, and counts as if it acted */
  constructor(base: IndexedPolicy, rule: Rule, private readonly parts: readonly Part[]) {
    const rules: Rule[] = []
    const add = (variant: Rule | null, name: string) => {
      if (!variant) return null
      const id = `${rule.id} ${name}`
      rules.push({ ...variant, id, name: id, state: 'enabled' })
      return id
    }
    this.ids = {
      whole: add(rule, 'whole')!,
      parts: parts.map((p, i) => ({ alone: add(p.alone, `alone ${i}`), without: add(p.without, `without ${i}`) })),
    }
    const net = rules.map((r): PolicyChange => ({ type: 'put', kind: 'rule', value: r }))
    this.policy = pairOf(base, net).after
    this.found = parts.map(() => ({ alone: nothing(), excepted: nothing(), kept: nothing(), more: nothing() }))
  }

  /** @param now ISO 8601 instant against which expiry is decided; @returns whether the rule catches the copy */
  add(copy: { message: Message, recipient: string, judgement: 'wanted' | 'unwanted' | null }, now: string): boolean {
    const { caught, excepted } = this.matched(copy, now)
    const whole = caught.has(this.ids.whole)
    const as = copy.judgement ?? 'unmarked'
    if (whole) this.whole[as]++
    this.ids.parts.forEach(({ alone, without }, i) => {
      const found = this.found[i]!
      if (alone !== null && caught.has(alone)) found.alone[as]++
      if (alone !== null && excepted.has(alone)) found.excepted[as]++
      if (without === null) return
      if (caught.has(without) && !whole) found.more[as]++
      if (whole && !caught.has(without)) found.kept[as]++
    })
    return whole
  }

  private matched({ message, recipient }: { message: Message, recipient: string }, now: string) {
    const { address, tiers } = recipientOf(this.policy.compiled, recipient)
    const direction = directionOf(message.attempt, address, this.policy.compiled.policy.trust)
    const caught = new Set<string>()
    const excepted = new Set<string>()
    for (const stage of stagesOf(direction)) {
      const copy: Copy = { message, recipient: address, direction, stage, now }
      for (const m of this.policy.ownMatches(copy, tiers)) if (m.lost === null) (m.excepted === null ? caught : excepted).add(m.clause.id)
    }
    return { caught, excepted }
  }

  /** What was found so far. */
  report(): { whole: Marks, parts: PartImpact[] } {
    const parts = this.parts.map(({ path, phrase, alone, without }, i) => {
      const { alone: catches, excepted, kept, more } = this.found[i]!
      const exempts = path.startsWith('except')
      return { path, phrase, catches: alone ? catches : exempts ? more : kept, excepted, only: without ? (exempts ? more : kept) : null }
    })
    return { whole: this.whole, parts }
  }
}

function nothing(): Marks {
  return { wanted: 0, unwanted: 0, unmarked: 0 }
}
