import { and, inArray } from 'drizzle-orm'
import { Joi } from '#core'
import { visibleTo } from '../../access/copy-access'
import { COMPUTES, defineRoute } from '../../access/route'
import { db } from '../../db/client'
import { copies } from '../../db/schema'
import { hitsUnder } from '../../impact/simulation'
import { changesField, changesOf } from '../../policy/changes-form'
import { previewChanges } from '../../policy/preview'

const MAX_COPIES = 200

const body = Joi.object<{ changes: unknown[], proposed: boolean, ids: number[] }, true>({
  changes: changesField,
  proposed: Joi.boolean().default(false),
  ids: Joi.array().items(Joi.number().integer().positive().max(Number.MAX_SAFE_INTEGER)).min(1).max(MAX_COPIES).required(),
})

// In how many of these messages the changed lists and rules would match, whether or not the messages would be moved.
export default defineRoute({ body, most: 'changes', version: COMPUTES }, async ({ actor, body: { changes, proposed, ids } }) => {
  const { net } = await previewChanges(actor, await changesOf(changes), { monitorToo: true, proposed })
  const seen = await db().select({ id: copies.id }).from(copies).where(and(inArray(copies.id, ids), visibleTo(actor)))
  const { hits: [hits], of } = await hitsUnder({ nets: [net], ids: seen.map(c => c.id) })
  return { hits: hits!, of }
})
