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

export const notFound = (what: string) => new Problem(404, 'Not found', `There is no ${what} here, or it is not yours to see.`)
export const notAllowed = (detail: string) => new Problem(403, 'Not allowed', detail)
export const invalid = (detail: string, fields: Record<string, string> = {}) =>
  new Problem(422, 'Something is not right', detail, { fields })
export const conflict = (what: string, more: Record<string, unknown> = {}) =>
  new Problem(
    409,
    'Somebody was faster',
    `${what} was changed after you opened it. Nothing was saved; load it again and repeat your change.`,
    { type: PROBLEM_TYPES.stale, more },
  )
export const noSuchVersion = (asked: number, newest: number) =>
  invalid(`There is no version ${asked} yet: the newest one is ${newest}. Load it again.`, { base: 'This version does not exist.' })
