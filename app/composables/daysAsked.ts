const DAY = 24 * 3600_000

/** The time between two days, both included, as routes take it: `after` and `before` as instants. Days are YYYY-MM-DD, or empty. */
export function daysAsked(since: string, until: string): { after?: string, before?: string } {
  return {
    ...(since ? { after: new Date(`${since}T00:00`).toISOString() } : {}),
    ...(until ? { before: new Date(new Date(`${until}T00:00`).getTime() + DAY).toISOString() } : {}),
  }
}
