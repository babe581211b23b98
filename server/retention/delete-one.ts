import type { Actor } from '../access/roles'
import { actionsOn } from '../access/copy-actions'
import { recordEvent } from '../audit/record'
import { lockCopies } from '../copies/locked-copies'
import { db } from '../db/client'
import { auditEventItems } from '../db/schema'
import { invalid } from '../platform/problem'
import { openRequestsFor } from '../requests/open-requests'
import { eraseRows } from './erase'

/**
 * Deletes one message for good: its log entry stays. There is no way back.
 * @param version in which the actor saw it
 * @throws 409 where it was changed since, 422 where it is held, or its release is requested
 */
export async function deletePermanently(actor: Actor, id: number, version: number): Promise<{ eventId: number }> {
  return db().transaction(async (tx) => {
    const rows = await lockCopies(tx, actor, [id], { [id]: version })
    const [copy] = rows
    const requests = (await openRequestsFor(tx, actor, rows))(copy!)
    if (!actionsOn(actor, copy!, requests).erase)
      throw invalid(
        copy!.lane === 'quarantine' || requests.any
          ? 'Mail in quarantine, and mail whose release is requested, is not deleted: move it to Bin first, or decline the request.'
          : 'Only the recipient or an administrator can delete this message permanently.',
      )
    const eventId = await recordEvent(tx, { personId: actor.id, kind: 'purged', detail: { count: 1, lane: copy!.lane } })
    // Not what it was: nothing of it can be put back.
    await tx.insert(auditEventItems).values({ eventId, copyId: id, before: null, after: null })
    await eraseRows(tx, rows, { kind: 'erased', by: actor.name })
    return { eventId }
  })
}
