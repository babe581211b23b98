import { Joi } from '#core'
import { MAX_FIXED } from '#core/limits'
import { COMPUTES, defineRoute } from '../../access/route'
import { changesField, changesOf } from '../../policy/changes-form'
import { fixesTogether, type TogetherForm } from '../../review/fixes'

/** Fixes that are saved as one. */
const MAX_TOGETHER = 12

const body = Joi.object<{ ids: number[], fixes: { sentence: string, changes: unknown[] }[] }, true>({
  ids: Joi.array().items(Joi.number().integer().positive().max(Number.MAX_SAFE_INTEGER)).min(1).max(MAX_FIXED).required(),
  fixes: Joi.array()
    .items(Joi.object({ sentence: Joi.string().trim().max(500).required(), changes: changesField }))
    .min(1)
    .max(MAX_TOGETHER)
    .required(),
})

export default defineRoute({ body, most: 'changes', version: COMPUTES }, async ({ actor, body: { ids, fixes } }) => {
  const read = await Promise.all(fixes.map(async f => ({ ...f, changes: await changesOf(f.changes) })))
  return fixesTogether(actor, { ids, fixes: read } satisfies TogetherForm)
})
