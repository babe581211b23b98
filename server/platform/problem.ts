interface ProblemParts {
  fields?: Record<string, string>
  headers?: Record<string, string>
  type?: string
  more?: Record<string, unknown>
}

/** Kinds of problems that callers tell apart. */
export const PROBLEM_TYPES = {
  /** Somebody changed meanwhile what this is about. `theirs` says what stands now. */
  stale: 'urn:sober-gate:problem:stale',
  /** A change would stop so much that it wants a second look. `impact` says what. */
  broad: 'urn:sober-gate:problem:broad',
  /** Mail would be gone for good. `impact` says how much. */
  erases: 'urn:sober-gate:problem:erases',
  /** Mail would be let in that claims a trusted sender and is not verified. `forgeries` says what each claims, and what was found. */
  forged: 'urn:sober-gate:problem:forged',
} as const

/** An error that a caller can act on; becomes a problem document (RFC 9457) or an SMTP reply. */
export class Problem extends Error {
  /** What is wrong by field, for a form. */
  readonly fields: Record<string, string>
  readonly headers: Record<string, string>
  /** Which kind of problem, where a caller must tell it from others (RFC 9457 3.1.1). */
  readonly type: string
  /** Members of its own (RFC 9457 3.2). */
  readonly more: Record<string, unknown>

  constructor(
    readonly status: number,
    readonly title: string,
    readonly detail: string,
    { fields = {}, headers = {}, type = 'about:blank', more = {} }: ProblemParts = {},
  ) {
    super(`${title}: ${detail}`)
    this.type = type
    this.more = more
    this.fields = fields
    this.headers = headers
  }
}

export const notFound = (what: string) => new Problem(404, 'Not found', `${what} does not exist, or you do not have permission to see it.`)
export const notAllowed = (detail: string) => new Problem(403, 'Not allowed', detail)
export const invalid = (detail: string, fields: Record<string, string> = {}) =>
  new Problem(422, 'Check your input', detail, { fields })
export const conflict = (what: string, more: Record<string, unknown> = {}) =>
  new Problem(
    409,
    'Changed by someone else',
    `${what} was changed after you opened it. Nothing was saved. Reload, then repeat your change.`,
    { type: PROBLEM_TYPES.stale, more },
  )
/** Someone else was first, and there is nothing left to do. @param what a sentence */
export const alreadyDone = (what: string) =>
  new Problem(409, 'Already done', `${what} Reload to see the current state.`, { type: PROBLEM_TYPES.stale })
export const noSuchVersion = (asked: number, newest: number) =>
  invalid(`Version ${asked} does not exist; the newest one is ${newest}. Reload.`, { base: 'This version does not exist.' })
