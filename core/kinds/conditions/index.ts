import type { Schema } from 'joi'
import { addressed } from './addressed'
import { attachment } from './attachment'
import { attachments } from './attachments'
import { authentication } from './authentication'
import { date } from './date'
import { defect } from './defect'
import { direction } from './direction'
import { every } from './every'
import { header } from './header'
import { important } from './important'
import type { ConditionKind, KindNames, MessageFacts } from './kind'
import { mailingList } from './mailing-list'
import { upstreamVerdict } from './upstream-verdict'
import { recipient } from './recipient'
import { methodResult } from './method-result'
import { dmarcRequest } from './dmarc-request'
import { script } from './script'
import { signedBy } from './signed-by'
import { size } from './size'
import { userName } from './user-name'
import type { SchemaTools } from '../schema-tools'

/** Every kind of condition on a fact, the common ones first. A new one is added here and in its own two files. */
const KINDS = {
  attachment,
  mailingList,
  authentication,
  signedBy,
  methodResult,
  dmarcRequest,
  recipient,
  addressed,
  script,
  header,
  date,
  size,
  attachments,
  important,
  defect,
  userName,
  direction,
  upstreamVerdict,
  every,
} as const

export type FactName = keyof typeof KINDS
type ValueOf<K> = K extends ConditionKind<string, infer Value> ? Value : never
/** A condition on a fact, as it stands in a policy: {"size": {"atLeast": 1000}}. */
export type Fact = { [K in FactName]: { [P in K]: ValueOf<(typeof KINDS)[K]> } }[FactName]

/** A kind whose value nobody needs to know. */
type AnyKind = ConditionKind<FactName, never>

export const FACT_NAMES = Object.keys(KINDS) as FactName[]

for (const name of FACT_NAMES)
  if (KINDS[name].name !== name) throw new Error(`The kind of condition “${KINDS[name].name}” is registered as “${name}”.`)

/** The kind of that name. */
export function factKind(name: FactName): AnyKind {
  return KINDS[name] as AnyKind
}

/** The kind of a condition on a fact. Throws for what is none: it is never taken for another. */
export function kindOfFact(fact: Fact): { kind: AnyKind, value: never } {
  const found = nameIn(fact)
  if (!found) throw new Error(`There is no kind of condition for ${JSON.stringify(fact).slice(0, 200)}.`)
  return { kind: factKind(found), value: (fact as unknown as Record<string, never>)[found]! }
}

function nameIn(fact: object): FactName | undefined {
  for (const key in fact) if (Object.hasOwn(KINDS, key)) return key as FactName
  return undefined
}

/** The schemas of the values, by the keys of the conditions. */
export function factSchemas(tools: SchemaTools): Record<FactName, Schema> {
  return Object.fromEntries(FACT_NAMES.map(name => [name, KINDS[name].schema(tools)])) as Record<FactName, Schema>
}

/** Whether a fact of the message is so, and how it is shown; null where it is not. */
export function factHolds(fact: Fact, known: MessageFacts): string | null {
  const { kind, value } = kindOfFact(fact)
  return kind.holds(known, value)
}

/** A condition on a fact as a clause that follows “when”. */
export function factWords(fact: Fact, names: KindNames): string {
  const { kind, value } = kindOfFact(fact)
  return kind.words(value, names)
}

/** A fact that a condition found. Of what an older version wrote down with another kind only what it showed is told. */
export function foundWords(fact: Fact, shown: string): string {
  return nameIn(fact) ? kindOfFact(fact).kind.found(shown, kindOfFact(fact).value) : shown
}

export type { ConditionKind, KindNames, MessageFacts } from './kind'
export { ADDRESSED, type Addressed } from './addressed'
export { ATTACHMENT_KINDS, type AttachmentKind, type AttachmentTest } from './attachment'
export type { DateTest } from './date'
export type { DmarcRequest } from './dmarc-request'
export type { MethodTest } from './method-result'
export { SCRIPTS, type Script } from './script'
