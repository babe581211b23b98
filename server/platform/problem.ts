/** An error that a caller can act on; becomes a problem document (RFC 9457) or an SMTP reply. */
export class Problem extends Error {
  /** What is wrong by field, for a form. */
  readonly fields: Record<string, string>
  readonly headers: Record<string, string>

  constructor(
    readonly status: number,
    readonly title: string,
    readonly detail: string,
    { fields = {}, headers = {} }: { fields?: Record<string, string>, headers?: Record<string, string> } = {},
  ) {
    super(`${title}: ${detail}`)
    this.fields = fields
    this.headers = headers
  }
}

export const notFound = (what: string) => new Problem(404, 'Not found', `There is no ${what} here, or it is not yours to see.`)
export const notAllowed = (detail: string) => new Problem(403, 'Not allowed', detail)
export const invalid = (detail: string, fields: Record<string, string> = {}) =>
  new Problem(422, 'Something is not right', detail, { fields })
export const somebodyFaster = (what: string) =>
  new Problem(
    409,
    'Somebody was faster',
    `${what} was changed after you opened it. Nothing was saved; load it again and repeat your change.`,
  )
