import { fromVersion1 } from '../policy'

const KINDS: Readonly<Record<string, string>> = { 'use': 'assignment', 'phrase set': 'phraseSet' }

/** A change in version 2 of the format, where its keys are those of version 1: "put", "remove" or "order". Anything else as it is. */
export function changeFromVersion1(change: unknown): unknown {
  if (typeof change !== 'object' || change === null || 'type' in change) return change
  const { put, remove, order, ...rest } = change as Record<string, unknown>
  if (typeof put === 'string') {
    const { [put]: value, ...others } = rest
    return {
      type: 'put',
      kind: kindOf(put),
      ...(put === 'entries' ? (fromVersion1(rest) as object) : { ...others, value: fromVersion1(value) }),
    }
  }
  if (typeof remove === 'string') return { type: 'remove', kind: kindOf(remove), ...(fromVersion1(rest) as object) }
  if (order === undefined) return change
  const { rules, ...others } = rest
  return { type: 'order', kind: 'rule', owner: order, ids: rules, ...others }
}

function kindOf(name: string): string {
  return Object.hasOwn(KINDS, name) ? KINDS[name]! : name
}
