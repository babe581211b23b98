import type { Address } from '../../address'

/** What of a sender an entry may look at. */
export interface EntrySubject {
  address: Address
  /** List-Id of the message, or null. */
  listId: string | null
  /** Client address, or null. */
  client: string | null
  /** Domains whose signatures passed, of a message as a whole. */
  signers?: readonly string[]
}

export type EntryError = { error: string }

/** How a table of many entries finds those that catch a sender. */
export type Lookup =
  | {
    /** By just these values, which are asked one after another. @param variants what `variant` told of the entries that there are */
    ask(subject: EntrySubject, asked: (value: string) => void, variants: readonly number[]): void
    /** What else must be known of a value before it can be asked for, as a number below 65,536. */
    variant?(value: string): number
  }
  /** By some letters that must stand in the sender's text; shorter than two, and the entry is always looked at. */
  | { literal(value: string): string }

/** A kind of entry. Everything that the product must know of it stands here. */
export interface EntryKindOf<Name extends string> {
  name: Name
  /** In a choice of kinds. */
  label: string
  /** How a line of a list names it: “mailing list: news.quayline.example”. */
  line: string
  example: string
  /** What it looks at: one address of the message, or the message as a whole. */
  of: 'address' | 'message'
  /** The canonical value, or what is wrong. @param text trimmed */
  canonical(text: string): string | EntryError
  /** Whether a pasted line that says nothing else is one. */
  looksLike(line: string, below: boolean): boolean
  catches(value: string, subject: EntrySubject): boolean
  lookup: Lookup
  /** The more specific kind first; within a kind the smaller number. */
  rank: number
  within(value: string): number
  /** Whether its sender can be verified: it names a domain that can pass. */
  verifiable(value: string): boolean
  /** The domain that it is about, where it is about one. */
  domain(value: string): string | null
  /** Entries that catch all that this one catches, the narrower first. */
  wider(value: string): { kind: string, value: string }[]
  /** Why it is questionable by itself, or null. */
  doubt(value: string): string | null
  /** As a person would say it. */
  words(value: string): string
}

export function entryKind<const Name extends string>(kind: EntryKindOf<Name>): EntryKindOf<Name> {
  return kind
}

/** For an error: what was written, cut. */
export function short(text: string): string {
  return text.length > 60 ? `${text.slice(0, 57)}…` : text
}
