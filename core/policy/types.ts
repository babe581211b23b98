import type { Trust, Direction } from '../message'

/** "organisation", "department:ID" or "person:ID". */
export type Owner = string
export type State = 'off' | 'watching' | 'acting'
/** When a sender condition that protects or spares counts. */
export type Counts = 'pass' | 'not fail' | 'any'
export type Hazard = 'spam' | 'quarantine' | 'delete' | 'refuse'
export const HAZARDS: readonly Hazard[] = ['spam', 'quarantine', 'delete', 'refuse']

export type StopTo = 'spam' | 'quarantine' | 'bin' | 'erase' | 'refuse' | 'drop'

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
  to: 'inbox' | 'slow lane' | 'folder' | 'filed'
  folder?: string
}

export type EffectKind = 'tag' | 'important' | 'forward' | 'copy' | 'reroute' | 'next hop' | 'header' | 'subject mark' | 'strip' | 'replace' | 'encrypt' | 'notify' | 'withhold from automation'

export interface Effect {
  kind: EffectKind
  /** The tag, the address, the header line, the mark, …: by kind. */
  value?: string
  /** Also where the copy is stopped; set by an administrator. */
  inEveryLane?: boolean
}

export type Claim =
  | { stop: Stop }
  | { protect: Hazard[] }
  | { place: PlaceClaim }
  | { effect: Effect }

export type EntryKind = 'address' | 'domain' | 'domain and below' | 'everyone'

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
  on: boolean
  entries: Entry[]
}

/** A list put to use. */
export interface Binding {
  id: string
  list: string
  owner: Owner
  side: 'allow' | 'block'
  must?: boolean
  state: State
  direction?: Direction
  /** Block bindings only. */
  stop?: Stop
  /** Allow bindings only; all four unless narrowed. */
  protect?: Hazard[]
  /** Allow bindings only; by owner unless said. */
  counts?: Counts
}

export type PhrasePlace = 'subject' | 'own' | 'quoted' | 'hidden'

export type Condition =
  | { all: Condition[] }
  | { any: Condition[] }
  | { none: Condition[] }
  | { sender: { kind: EntryKind, value: string }, counts?: Counts }
  | { senderOn: string, counts?: Counts }
  | { phrases: string[], set?: undefined, where?: PhrasePlace[], whole?: boolean }
  | { set: string, phrases?: undefined, where?: PhrasePlace[], whole?: boolean }
  | { every: true }

export interface PhraseSet {
  id: string
  name: string
  owner: Owner
  phrases: string[]
}

export interface Rule {
  id: string
  name: string
  description?: string
  group?: string
  owner: Owner
  must?: boolean
  /** Even for senders on my lists. Must rules that stop are raised unless this is false. */
  raised?: boolean
  state: State
  direction?: Direction
  when: Condition
  except: Condition[]
  claims: Claim[]
  end?: 'owner' | 'all'
  expires?: string
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
  formatVersion: 1
  /** Counted up by every change that is in force. */
  version: number
  trust: Trust
  departments: Department[]
  people: Person[]
  quarantines: Quarantine[]
  lists: List[]
  bindings: Binding[]
  phraseSets: PhraseSet[]
  rules: Rule[]
}

export function isGroup(c: Condition): c is Extract<Condition, { all: Condition[] } | { any: Condition[] } | { none: Condition[] }> {
  return 'all' in c || 'any' in c || 'none' in c
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
  const refers = (c: Condition): boolean => ('senderOn' in c && c.senderOn === list) || (groupMembers(c)?.some(refers) ?? false)
  return [rule.when, ...rule.except].some(refers)
}
