import { setResponseStatus } from 'h3'
import { Joi, KEPT_LANES } from '#core'
import { defineRoute } from '../access/route'
import { putInForce, type Changing } from '../mail/changing'
import { changesField, changesOf } from '../policy/changes-form'

const body = Joi.object<Omit<Changing, 'changes'> & { changes: unknown[] }, true>({
  base: Joi.number().integer().min(0).max(2_147_483_647).required(),
  changes: changesField,
  note: Joi.string().trim().max(500),
  coming: Joi.boolean().required(),
  existing: Joi.object({
    lanes: Joi.array()
      .items(Joi.string().valid(...KEPT_LANES))
      .unique()
      .required(),
    after: Joi.date().iso(),
    before: Joi.date().iso(),
    ids: Joi.array().items(Joi.number().integer().positive().max(Number.MAX_SAFE_INTEGER)).max(200),
  }),
  confirmed: Joi.object({ broad: Joi.boolean(), erases: Joi.number().integer().min(0).max(2_147_483_647) }),
})

export default defineRoute({ body }, async ({ event, asker, body: { changes, ...form } }) => {
  const done = await putInForce(asker, { ...form, changes: changesOf(changes) })
  if (done.job !== null) setResponseStatus(event, 202)
  return done
})
