import type { Reason } from '#core'

/** What tells one reason line of the ladder from another: the clause, and the entry that matched. */
export function reasonLineKey(reason: Pick<Reason, 'clause'>): string {
  return `${reason.clause.kind} ${reason.clause.id} ${reason.clause.entry?.id ?? ''}`
}

/** Reasons of one clause together, in the order in which claims stand. */
export function reasonLinesOf(
  reasons: readonly Reason[],
  decidedBy: number | null,
): { key: string, reasons: Reason[], decided: boolean }[] {
  const reasonLines: { key: string, reasons: Reason[], decided: boolean }[] = []
  reasons.forEach((reason, i) => {
    const key = reasonLineKey(reason)
    const last = reasonLines.at(-1)
    const reasonLine = last?.key === key ? last : { key, reasons: [], decided: false }
    if (reasonLine !== last) reasonLines.push(reasonLine)
    reasonLine.reasons.push(reason)
    reasonLine.decided ||= i === decidedBy
  })
  return reasonLines
}
