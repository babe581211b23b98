import type { Address } from '../../address'
import type { Direction, Message, Trust } from '../../message'
import type { Schema } from 'joi'
import type { SchemaTools } from '../schema-tools'
import type { UserNames } from '../user-names'

/** What a condition on a fact may look at. */
export interface MessageFacts {
  message: Message
  recipient: Address
  /** Of this copy. */
  direction: Direction
  /** ISO 8601 instant. */
  now: string
  trust: Trust
  userNames: UserNames
}

/** What a condition's words may name. */
export interface KindNames {
  trust?: Pick<Trust, 'upstreamVerdicts'>
}

/**
 * What wakes a condition, so that it is not asked of every message: the condition waits for one key, a message has some.
 * A key that a message lacks means that the condition is false.
 */
export interface Prefilter<Value> {
  /** The key for which a condition waits; null: it is asked of every message. */
  by(value: Value): string | null
  /** The keys that a message has. */
  opened(message: Message, trust: Trust): Iterable<string>
}

/** A kind of condition on one fact of a message. Everything that the product must know of it stands here, but for its Vue field. */
export interface ConditionKind<Name extends string, Value> {
  /** Its key in a condition's JSON. */
  name: Name
  /** In a choice of kinds. */
  label: string
  /** Of the value. */
  schema(tools: SchemaTools): Schema
  /** How what was found is shown, or null where it is not so. A missing fact is never so. */
  holds(known: MessageFacts, value: Value): string | null
  /** Null: there is nothing to look up, and it is asked when the rest of its rule is awake. */
  prefilter: Prefilter<Value> | null
  /** A clause that follows “when”. */
  words(value: Value, names: KindNames): string
  /** What was found, in a few words. */
  found(shown: string, value: Value): string
  /** What the form begins with. */
  blank: Value
  /** What the value still lacks, for whoever fills it in; null where it is whole. */
  lacks?(value: Value): string | null
  /** A name for a rule that asks for it. */
  title?(value: Value): string | null
  /** Ids that it names, by what they are of. */
  refers?(value: Value): { verdict: string } | null
  /** The name of its Vue field in app/components/kinds/conditions; null where there is nothing to fill in. */
  field: string | null
}

/** Checks a kind against its interface, and keeps its own types. */
export function conditionKind<const Name extends string, Value>(kind: ConditionKind<Name, Value>): ConditionKind<Name, Value> {
  return kind
}
