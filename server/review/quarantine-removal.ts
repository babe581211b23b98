import { and, eq, sql } from 'drizzle-orm'
import type { Claim, Policy, Stop } from '#core'
import { THRESHOLDS, type PolicyChange } from '#core/change'
import type { Actor } from '../access/roles'
import type { Tx } from '../db/client'
import { copies } from '../db/schema'
import { invalid, notFound } from '../platform/problem'
import { changeClauses, type Done } from '../policy/apply'
import { mustBeVersion } from '../policy/quarantine-settings'

/**
 * Deletes a quarantine: what it holds, and what lists and rules would hold there, goes to another one. One act, which takes all of it
 * back. The general one stays.
 * @param seen its version as the caller saw it @throws 409 where it was changed since
 */
export async function removeQuarantine(actor: Actor, id: string, to: string, seen: number): Promise<Done & { moved: number }> {
  let moved = 0
  const { eventId, version } = await changeClauses(
    actor,
    async ({ tx, policy }) => {
      await mustBeVersion(tx, id, seen)
      const [gone, other] = [id, to].map(one => policy.quarantines.find(q => q.id === one))
      if (!gone) throw notFound('This quarantine')
      if (gone.general)
        throw invalid('The general quarantine cannot be deleted: mail must have a place where it can be held.', {
          id: 'The general quarantine cannot be deleted.',
        })
      if (!other || other === gone) throw invalid('Choose the quarantine to which its mail is moved.', { to: 'Choose another quarantine.' })
      return removing(policy, id, to)
    },
    {
      // What follows may be clauses of people's own, which nobody else reads of: the event says only what was asked for.
      note({ quarantines }) {
        const [gone, other] = [id, to].map(one => quarantines.find(q => q.id === one)!.name)
        return { kind: 'removedQuarantine', name: gone!, to: other! }
      },
      async inTransaction(tx, { eventId }) {
        moved = await moveAll(tx, { eventId, id, to })
      },
    },
  )
  return { eventId, version, moved }
}

function removing(policy: Policy, id: string, to: string): PolicyChange[] {
  const holds = (stop: Stop | undefined) => stop?.to === 'quarantine' && stop.quarantine === id
  const redirected = (stop: Stop): Stop => ({ ...stop, quarantine: to })
  return [
    ...policy.rules
      .filter(r => r.claims.some(c => 'stop' in c && holds(c.stop)))
      .map((rule): PolicyChange => ({
        type: 'put',
        kind: 'rule',
        value: { ...rule, claims: rule.claims.map((c): Claim => ('stop' in c && holds(c.stop) ? { stop: redirected(c.stop) } : c)) },
      })),
    ...policy.assignments
      .filter(b => holds(b.stop))
      .map((assignment): PolicyChange => ({
        type: 'put',
        kind: 'assignment',
        value: { ...assignment, stop: redirected(assignment.stop!) },
      })),
    ...THRESHOLDS.flatMap((name): PolicyChange[] => {
      const threshold = policy.thresholds?.[name]
      if (!threshold || !holds(threshold.stop)) return []
      return [{ type: 'put', kind: 'threshold', value: { ...threshold, id: name, stop: redirected(threshold.stop) } }]
    }),
    { type: 'remove', kind: 'quarantine', id },
  ]
}

async function moveAll(tx: Tx, { eventId, id, to }: { eventId: number, id: string, to: string }): Promise<number> {
  const held = and(eq(copies.lane, 'quarantine'), eq(copies.quarantineId, id))
  await tx.execute(sql`select id from copies where ${held} order by id for update`)
  // Who put it where is as it was; only the place has another name.
  await tx.execute(sql`
    insert into audit_event_items (event_id, copy_id, before, after)
    select ${eventId}::bigint, copies.id,
      s || jsonb_build_object('quarantineId', ${id}::text), s || jsonb_build_object('quarantineId', ${to}::text)
    from copies, lateral (select jsonb_build_object('lane', lane, 'folder', folder, 'filed', filed, 'movedBy', moved_by,
      'laneSince', to_char(lane_since at time zone 'utc', 'YYYY-MM-DD"T"HH24:MI:SS.US"Z"')) s) one where ${held}`)
  const changed = await tx
    .update(copies)
    .set({ quarantineId: to, version: sql`${copies.version} + 1` })
    .where(held)
    .returning({ id: copies.id })
  return changed.length
}
