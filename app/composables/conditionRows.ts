import isSame from 'fast-deep-equal'
import {
  FACT_NAMES,
  factKind,
  kindOfFact,
  plainEntry,
  readLines,
  writtenEntry,
  type EntryKind,
  type Fact,
  type FactName,
} from '#core/kinds'
import { groupMembers, isFact, phraseText, sendersOfCondition, type Condition, type PhraseItem } from '#core/policy'
import { splitPhrases } from '#core/text'
import { readPhrases, writtenPhrases } from './phraseLines'

/** How the sheet begins a condition that is more than a question to one fact, and what the choice of kinds calls it. */
const STRUCTURES = {
  phrases: { label: 'words or phrases', fresh: (): Condition => ({ phrases: [] }) },
  sender: { label: 'the sender is', fresh: (): Condition => ({ sender: { kind: 'domain', value: '' } }) },
  list: { label: 'the sender is on list', fresh: (): Condition => ({ senderOn: '' }) },
  set: { label: 'phrase set', fresh: (): Condition => ({ set: '' }) },
  expression: { label: 'regular expression', fresh: (): Condition => ({ expression: '' }) },
}

type Structure = keyof typeof STRUCTURES
export type Kind = Structure | FactName | 'group' | 'other'

/** The kinds among which one chooses, the common ones first; in one list, not in a tree. */
export const KINDS: readonly { value: Kind, name: string }[] = [
  ...(Object.keys(STRUCTURES) as Structure[]).map(value => ({ value, name: STRUCTURES[value].label })),
  ...FACT_NAMES.map(value => ({ value, name: factKind(value).label })),
]

export type Joint = 'all' | 'any' | 'none'
export const JOINTS: readonly { value: Joint, name: string }[] = [
  { value: 'all', name: 'all of these' },
  { value: 'any', name: 'any of these' },
  { value: 'none', name: 'none of these' },
]

/** One condition as the sheet edits it. Phrases are edited as text; what the sheet has no fields for is kept as it stands. */
export interface ConditionRow {
  key: number
  kind: Kind
  condition: Condition
  /** Phrases, or senders, one a line; and the company of phrases. */
  text: string
  near: string
  within: number | null
  /** What every line of senders is taken for; empty: what it looks like. And a domain is taken with what lies below it. */
  as: EntryKind | ''
  below: boolean
  /** Of a group: how its conditions are joined, and these. */
  joint: Joint
  rows: ConditionRow[]
}

type Of<K extends string> = Extract<Condition, Record<K, unknown>>
/** The part of a row's condition that a kind has; the caller knows the kind. */
export function asKind<K extends string>(row: ConditionRow, _kind: K): Of<K> {
  return row.condition as Of<K>
}

/** The kind of a row that asks for one fact; null for all others. */
export function factOf(row: ConditionRow): FactName | null {
  return FACT_NAMES.find(name => name === row.kind) ?? null
}

let keys = 0

function freshCondition(kind: Kind): Condition {
  if (kind === 'group') return { any: [] }
  if (kind === 'other') return { every: true }
  if (kind in STRUCTURES) return STRUCTURES[kind as Structure].fresh()
  return { [kind]: factKind(kind as FactName).blank } as unknown as Fact
}

export function newRow(kind: Kind): ConditionRow {
  return {
    key: ++keys,
    kind,
    condition: freshCondition(kind),
    text: '',
    near: '',
    within: null,
    as: '',
    below: false,
    joint: 'any',
    rows: kind === 'group' ? [newRow('phrases')] : [],
  }
}

function writesWell(phrases: readonly PhraseItem[]): boolean {
  return isSame(readPhrases(writtenPhrases(phrases), phrases), phrases)
}

// Senders as plain lines; where one would be read otherwise, all are read as one kind, or lines begin with the name of their kind.
function senderRow(c: Extract<Condition, { sender: unknown }>): Partial<ConditionRow> {
  const senders = sendersOfCondition(c)
  const plain = senders.map(plainEntry)
  if (plain.every(line => line !== null)) return { kind: 'sender', text: plain.join('\n') }
  const [{ kind }] = senders as [(typeof senders)[0]]
  const text = senders.map(s => s.value).join('\n')
  const same = isSame(readLines({ text, below: false, as: kind }).good, senders)
  if (same) return { kind: 'sender', text, as: kind }
  const written = senders.map(writtenEntry)
  return written.every(line => line !== null) ? { kind: 'sender', text: written.join('\n') } : {}
}

function sendersOfRow({ text, below, as }: ConditionRow) {
  return readLines({ text, below, as: as || undefined })
}

/** A condition as the sheet edits it. */
export function rowOf(c: Condition): ConditionRow {
  const row = { ...newRow('other'), condition: c }
  const members = groupMembers(c)
  if (members) return { ...row, kind: 'group', joint: 'all' in c ? 'all' : 'any' in c ? 'any' : 'none', rows: members.map(rowOf) }
  if ('phrases' in c && c.phrases) {
    // What could not be told when it is read again is kept as it stands.
    if (!writesWell(c.phrases) || !writesWell(c.near?.phrases ?? [])) return row
    return {
      ...row,
      kind: 'phrases',
      text: writtenPhrases(c.phrases),
      near: writtenPhrases(c.near?.phrases ?? []),
      within: c.near?.within ?? null,
    }
  }
  if ('senderOn' in c) return { ...row, kind: 'list' }
  if ('sender' in c) return { ...row, ...senderRow(c) }
  // The sheet has fields for one bound of a date.
  if ('date' in c && Object.keys(c.date).length > 2) return row
  const kind = isFact(c) ? kindOfFact(c).kind.name : (Object.keys(STRUCTURES) as Structure[]).find(k => k in c)
  return { ...row, kind: kind ?? 'other' }
}

/** The condition that a row comes to. */
export function conditionOf(row: ConditionRow): Condition {
  if (row.kind === 'group') return { [row.joint]: row.rows.map(conditionOf) } as Condition
  if (row.kind === 'sender') {
    const { good } = sendersOfRow(row)
    const sender = good.length === 1 ? good[0]! : good
    return { ...asKind(row, 'sender'), sender }
  }
  if (row.kind !== 'phrases') return row.condition
  const { near: _, phrases: before, ...look } = asKind(row, 'phrases')
  const near = splitPhrases(row.near)
  return {
    ...look,
    phrases: readPhrases(row.text, before as PhraseItem[]),
    ...(near.length ? { near: { phrases: near, ...(row.within === null ? {} : { within: row.within }) } } : {}),
  }
}

/** Sets one thing of a row's condition; undefined takes it out. */
export function withField(row: ConditionRow, key: string, value: unknown): ConditionRow {
  const { [key]: _, ...rest } = row.condition as Record<string, unknown>
  return { ...row, condition: (value === undefined ? rest : { ...rest, [key]: value }) as Condition }
}

/** What a row still lacks, or null. */
export function lacks(row: ConditionRow): string | null {
  const c = row.condition
  if (row.kind === 'group')
    return row.rows.length ? (row.rows.map(lacks).find(l => l !== null) ?? null) : 'Add a condition to the group, or remove the group.'
  if (row.kind === 'phrases') return row.text.trim() ? null : 'Enter at least one word or phrase, or remove this condition.'
  if (row.kind === 'sender') {
    const { good, wrong } = sendersOfRow(row)
    return wrong[0]?.error ?? (good.length ? null : 'Enter the address or domain.')
  }
  if ('senderOn' in c) return c.senderOn ? null : 'Choose a list.'
  if ('set' in c) return c.set ? null : 'Choose a phrase set.'
  if ('expression' in c) return c.expression ? null : 'Enter the regular expression.'
  if (!isFact(c)) return null
  const { kind, value } = kindOfFact(c)
  return kind.lacks?.(value) ?? null
}

/** A name for a rule from what one of its conditions looks for; empty where there is nothing to say. */
export function titleOf(row: ConditionRow, listName: (id: string) => string): string {
  const c = row.condition
  if (row.kind === 'phrases') {
    const [item] = readPhrases(row.text)
    const first = item === undefined ? '' : phraseText(item)
    return first.charAt(0).toUpperCase() + first.slice(1)
  }
  if (row.kind === 'sender') {
    const [first, ...more] = sendersOfRow(row).good
    return first ? `From ${first.value}${more.length ? ` and ${more.length} more` : ''}` : ''
  }
  if ('senderOn' in c) return c.senderOn && `From ${listName(c.senderOn)}`
  if (!isFact(c)) return ''
  const { kind, value } = kindOfFact(c)
  return kind.title?.(value) ?? ''
}
