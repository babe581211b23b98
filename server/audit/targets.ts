/** What an event was about, and where that is shown. */
export interface EventTarget {
  name: string
  /** The page that shows it; null where it is no longer there. */
  to: string | null
  /** Of a clause its sentence before and after; null where there was, or is, none. Left out where neither says what changed. */
  before?: string | null
  after?: string | null
}

/** Of an event what it was about: the first of it, and how many more there are. */
export interface EventTargets {
  targets: EventTarget[]
  more: number
}

export const NO_TARGETS: EventTargets = { targets: [], more: 0 }

/** So many of an event are named. */
export const MAX_TARGETS = 4
