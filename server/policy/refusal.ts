import type { ChangeProblem, PolicyChange } from '#core/change'
import { counted } from '#core/wording'
import { seesClausesOf } from '../access/ownership'
import type { Actor } from '../access/roles'
import { invalid, conflict, type Problem } from '../platform/problem'

/** How changes were asked for. */
export interface AskedAs {
  /** What they are about, for whoever was too slow. */
  what?: string
  /** Before the names of the fields of a use, where it is part of a larger form. */
  prefix?: string
}

/** Why changes are not made, for whoever asked for them. */
export function refusal(problems: readonly ChangeProblem[], changes: readonly PolicyChange[], actor: Actor | null, how: AskedAs): Problem {
  if (problems.some(p => p.stale)) return conflict(how.what ?? 'What you edited')
  const fields: Record<string, string> = {}
  const details = problems.map((p) => {
    const change = p.change === null ? undefined : changes[p.change]
    const prefix = change && change.type === 'put' && change.kind === 'assignment' ? (how.prefix ?? '') : ''
    if (p.field && p.field !== 'id') fields[prefix + p.field] ??= p.message
    return p.users ? usedWords(p, actor) : p.message
  })
  return invalid([...new Set(details)].slice(0, 5).join('; '), fields)
}

function usedWords({ message, users = [] }: ChangeProblem, actor: Actor | null): string {
  const known = users.filter(u => !actor || seesClausesOf(actor, u.owner)).map(u => u.name)
  const others = users.length - known.length
  const named = [...known, ...(others ? [counted(others, 'personal list or rule', 'personal lists and rules')] : [])]
  return `${message} ${named.join(', ')}. Remove it there first, or disable it.`
}
