import type { EntryText } from '../kinds'
import type { EntryTable } from '../lookup'
import type { Direction } from '../message'
import type { Owner } from '../policy'

export type FindingKind =
  | 'can never match'
  | 'never reached'
  | 'covered by an earlier rule'
  | 'entry covered by a wider one'
  | 'phrase inside another'
  | 'entry has no effect'
  | 'counts even if not verified'
  | 'sender can never count'
  | 'exception expires soon'
  | 'expired'
  | 'deletes permanently, never monitored'
  | 'wide network'
  | 'slow rule'
  | 'uses a disabled list'
  | 'phrase matches wanted mail'
  | 'unused'
  | 'allowed and blocked'
  | 'duplicate rule'
  | 'not confirmed'
  | 'due for review'
  | 'no such mail accepted'

/** Something about a policy that should be checked. */
export interface Finding {
  kind: FindingKind
  /** The clause: a rule, or a list with the entry. */
  clause: {
    kind: 'rule' | 'list' | 'phraseSet'
    id: string
    name: string
    entry?: string
    /** Of a use of the list: whose it is. */ user?: Owner
  }
  /** What was seen. */
  evidence: string
  /** What would fix it, in a sentence. */
  fix: string
  /** What a fix has to know; see `fixOf`. */
  about?: {
    entry?: EntryText
    /** Of several uses of a list the one that it is about. */
    assignment?: string
    phrase?: string
    /** The rule that stands in its way. */
    earlier?: string
    /** It stands under “none”, where what is missing makes it wider. */
    none?: true
  }
}

/** What the checks may know besides the policy. */
export interface CheckContext {
  /** ISO 8601 instant. */
  now: string
  /** Every entry of every list. Left out, the lists of the policy hold all of theirs. */
  entries?: EntryTable
  /** By rule or entry id: when it last matched, and since when that would be known. Left out, nothing is said about what is unused. */
  seen?: ReadonlyMap<string, { last: string | null, since: string }>
  /** Whether mail of these directions is accepted. Left out, all is. */
  accepts?: Record<Exclude<Direction, 'inbound'>, boolean>
  /** Rules that have been “monitor only” before. Left out, none is known to have been. */
  watched?: ReadonlySet<string>
  /**
   * By rule and phrase (phraseHitKey): hits among wanted copies that no exception exempted; and by owner how many wanted copies
   * there are.
   */
  wantedHits?: { byPhrase: ReadonlyMap<string, number>, wanted: ReadonlyMap<Owner, number> }
}
