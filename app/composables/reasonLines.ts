import type { Reason } from '#core'

/** What tells one rung of the ladder from another: the clause, and the entry that matched. */
export function rungKey(reason: Pick<Reason, 'clause'>): string {
  return `${reason.clause.kind} ${reason.clause.id} ${reason.clause.entry?.id ?? ''}`
}

/** Reasons of one clause together, in the order in which claims stand. */
export function rungsOf(reasons: readonly Reason[], decidedBy: number | null): { key: string, reasons: Reason[], decided: boolean }[] {
  const rungs: { key: string, reasons: Reason[], decided: boolean }[] = []
  reasons.forEach((reason, i) => {
    const key = rungKey(reason)
    const last = rungs.at(-1)
    const rung = last?.key === key ? last : { key, reasons: [], decided: false }
    if (rung !== last) rungs.push(rung)
    rung.reasons.push(reason)
    rung.decided ||= i === decidedBy
  })
  return rungs
}
