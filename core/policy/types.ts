import { TEXT_PLACES, type Direction, type TextPlace, type Trust } from '../message'
import { FACT_NAMES, type Effect, type EntryKind, type Fact } from '../kinds'

/** "organisation", "department:ID" or "person:ID". */
export type Owner = string
export const STATES = ['disabled', 'monitor', 'enabled'] as const
export type State = (typeof STATES)[number]
/** When a sender condition that protects or exempts counts. */
export const COUNTS = ['verified', 'notFailed', 'any'] as const
export type Counts = (typeof COUNTS)[number]
export const HAZARDS = ['spam', 'quarantine', 'delete', 'refuse'] as const
export type Hazard = (typeof HAZARDS)[number]

export const STOPS = ['spam', 'quarantine', 'bin', 'erase', 'refuse', 'discard'] as const
export type StopTo = (typeof STOPS)[number]

/** The lanes in which a copy can end, in the order in which they are shown. */
export const LANES = ['inbox', 'lowPriority', 'spam', 'quarantine', 'bin', 'refused', 'discarded', 'sent'] as const
export type Lane = (typeof LANES)[number]
/** Those in which mail lies here, and between which people send it. */
export const KEPT_LANES = ['inbox', 'lowPriority', 'spam', 'quarantine', 'bin'] as const satisfies readonly Lane[]
export type KeptLane = (typeof KEPT_LANES)[number]

/** Whether mail in a lane lies here, and can be sent to another one. */
export function isKeptHere(lane: Lane): lane is KeptLane {
  return KEPT_LANES.some(kept => kept === lane)
}

/** Whether mail in a lane has come to its recipient, or gone on. */
export function isDelivered(lane: Lane): lane is 'inbox' | 'lowPriority' | 'sent' {
  return lane === 'inbox' || lane === 'lowPriority' || lane === 'sent'
}

/** Whether mail lies in a lane where its recipient does not come upon it. */
export function isKeptAway(lane: Lane): lane is 'spam' | 'quarantine' | 'bin' {
  return lane === 'spam' || lane === 'quarantine' || lane === 'bin'
}

export interface Stop {
  to: StopTo
  /** Id of the quarantine; only with to: quarantine. */
  quarantine?: string
  /** Reply of a refusal. */
  reply?: string
  /** Erase and drop: somebody confirmed it. */
  confirmed?: boolean
}

export interface PlaceClaim {
  to: 'inbox' | 'lowPriority' | 'folder' | 'filed'
  folder?: string
}

export type Claim = { stop: Stop } | { protect: Hazard[] } | { place: PlaceClaim } | { effect: Effect }

export interface Entry {
  id: string
  kind: EntryKind
  /** Canonical form of its kind; empty for everyone. */
  value: string
  note?: string
  /** ISO 8601 instant from which on it no longer counts. */
  expires?: string
  addedAt?: string
  addedBy?: string
}

export interface List {
  id: string
  name: string
  owner: Owner
  usualSide: 'allow' | 'block'
  enabled: boolean
  entries: Entry[]
}

/** A list put to use. */
export interface Assignment {
  id: string
  list: string
  owner: Owner
  side: 'allow' | 'block'
  mandatory?: boolean
  state: State
  direction?: Direction
  /** Block assignments only. */
  stop?: Stop
  /** Allow assignments only; all four unless narrowed. */
  protect?: Hazard[]
  /** Allow assignments only; by owner unless said. */
  counts?: Counts
}

/** Where phrases and expressions look; "header:NAME" is one header, by its name in lower case. */
export const PHRASE_PLACES = TEXT_PLACES
export type PhrasePlace = TextPlace | `header:${string}`

/** Phrases of which one must occur too: anywhere in the places looked at, or with at most so many words between. */
export interface Near {
  phrases: string[]
  within?: number
}

/** A phrase; as a plain string it weighs 1 and needs no company. */
export type PhraseItem = string | { text: string, weight?: number, near?: Near }

export interface PhraseLook {
  where?: PhrasePlace[]
  /** Whole words, unless false. */
  whole?: boolean
  view?: 'plain' | 'bare' | 'obfuscated'
  /** The weights of the distinct phrases found must reach it; any one phrase unless said. */
  minimum?: number
  /** Company that every phrase needs. */
  near?: Near
}

interface SenderText {
  kind: EntryKind
  value: string
}

export type Condition =
  | { all: Condition[] }
  | { any: Condition[] }
  | { none: Condition[] }
  | { sender: SenderText | SenderText[], counts?: Counts }
  | { senderOn: string, counts?: Counts }
  | ({ phrases: PhraseItem[], set?: undefined } & PhraseLook)
  | ({ set: string, phrases?: undefined } & PhraseLook)
  | { expression: string, where?: PhrasePlace[] }
  | Fact

export type PhraseCondition = Extract<Condition, { phrases: PhraseItem[] } | { set: string }>

export interface PhraseSet {
  id: string
  name: string
  owner: Owner
  phrases: PhraseItem[]
  minimum?: number
}

export interface Rule {
  id: string
  name: string
  description?: string
  group?: string
  owner: Owner
  mandatory?: boolean
  /** Even for senders on my lists. Mandatory rules that stop override lists unless this is false. */
  overridesLists?: boolean
  state: State
  direction?: Direction
  when: Condition
  except: Condition[]
  claims: Claim[]
  end?: 'owner' | 'all'
  expires?: string
  /** When somebody should look at it again; it goes on all the same. */
  reviewOn?: string
}

/** From so many points on, a message's score stops its copies. */
export interface Threshold {
  at: number
  stop: Stop
}

export interface Quarantine {
  id: string
  name: string
  general?: boolean
}

export interface Department {
  id: string
  name: string
  parent?: string
}

export interface Person {
  id: string
  name: string
  addresses: string[]
  /** Home department first. */
  departments: string[]
}

/** Everything that a decision needs besides the message. Rules stand in the order in which people put them. */
export interface Policy {
  format: 'sober-gate-policy'
  formatVersion: 3
  /** Counted up by every change that is active. */
  version: number
  trust: Trust
  departments: Department[]
  people: Person[]
  quarantines: Quarantine[]
  lists: List[]
  assignments: Assignment[]
  phraseSets: PhraseSet[]
  rules: Rule[]
  /** After all lists and rules. */
  thresholds?: { likely?: Threshold, sure?: Threshold }
}

export function isGroup(c: Condition): c is Extract<Condition, { all: Condition[] } | { any: Condition[] } | { none: Condition[] }> {
  return 'all' in c || 'any' in c || 'none' in c
}

/** True for a condition on one fact of the message. */
export function isFact(c: Condition): c is Fact {
  return FACT_NAMES.some(name => Object.hasOwn(c, name))
}

/** The senders that a condition asks for, of which one is enough. */
export function sendersOfCondition({ sender }: { sender: SenderText | SenderText[] }): SenderText[] {
  return Array.isArray(sender) ? sender : [sender]
}

/** A condition in which each condition on the sender names one: several are any of them. */
export function spelledOut(c: Condition): Condition {
  if (!('sender' in c)) return c
  const { sender: _, ...rest } = c
  const each = sendersOfCondition(c).map(sender => ({ ...rest, sender }))
  return each.length === 1 ? each[0]! : { any: each }
}

/** The members of a group condition. */
export function groupMembers(c: Condition): Condition[] | null {
  if ('all' in c) return c.all
  if ('any' in c) return c.any
  if ('none' in c) return c.none
  return null
}

export function ruleStops(rule: Pick<Rule, 'claims'>): boolean {
  return rule.claims.some(c => 'stop' in c)
}

export function ruleProtects(rule: Pick<Rule, 'claims'>): boolean {
  return rule.claims.some(c => 'protect' in c)
}

/** True if a condition of the rule asks whether the sender is on that list. */
export function refersToList(rule: Pick<Rule, 'when' | 'except'>, list: string): boolean {
  return asksFor(rule, c => 'senderOn' in c && c.senderOn === list)
}

/** True if a condition of the rule looks for that phrase set. */
export function refersToSet(rule: Pick<Rule, 'when' | 'except'>, set: string): boolean {
  return asksFor(rule, c => 'set' in c && c.set === set)
}

function asksFor(rule: Pick<Rule, 'when' | 'except'>, wanted: (c: Condition) => boolean): boolean {
  const asks = (c: Condition): boolean => wanted(c) || (groupMembers(c)?.some(asks) ?? false)
  return [rule.when, ...rule.except].some(asks)
}

/** The text of a phrase. */
export function phraseText(item: PhraseItem): string {
  return typeof item === 'string' ? item : item.text
}
