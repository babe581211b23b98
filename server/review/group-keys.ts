import { createHmac } from 'node:crypto'
import { isOthers, personOwner, type Policy } from '#core'
import type { Actor } from '../access/roles'

const MASKED = 'others '

/** The keys of groups that are those of colleagues' own clauses. */
function* othersKeys(actor: Actor, { rules, assignments }: Pick<Policy, 'rules' | 'assignments'>): Generator<string> {
  const own = personOwner(actor.id)
  for (const { id, owner } of rules) if (isOthers(own, owner)) yield `rule ${id}`
  for (const { id, owner } of assignments) if (isOthers(own, owner)) yield `list ${id}`
}

// Of a secret of this installation: whoever knows a clause's id cannot tell that it is meant, nor the other way round.
const mask = (key: string) =>
  MASKED + createHmac('sha256', process.env.NUXT_SESSION_PASSWORD ?? '').update(`group ${key}`).digest('base64url').slice(0, 22)

/** How the actor names groups: those of colleagues' own clauses by a key that says nothing of the clause. */
export function groupKeys(actor: Actor, policy: Pick<Policy, 'rules' | 'assignments'>) {
  const others = new Set(othersKeys(actor, policy))
  return {
    shown: (key: string) => (others.has(key) ? mask(key) : key),
    /** The key of a group by how it is shown; a colleague's own clause by its id is none. */
    real(shown: string): string | null {
      if (shown.startsWith(MASKED)) return [...others].find(key => mask(key) === shown) ?? null
      return others.has(shown) ? null : shown
    },
  }
}
