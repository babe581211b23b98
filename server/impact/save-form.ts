import { Joi, KEPT_LANES } from '#core'

/** Copies that something is about, by their ids. */
export const copiesField = Joi.array().items(Joi.number().integer().positive().max(Number.MAX_SAFE_INTEGER)).max(200)

/** To which of the mail that is here a change is applied. */
export const existingField = Joi.object({
  expected: Joi.number().integer().min(0).max(2_147_483_647),
  lanes: Joi.array()
    .items(Joi.string().valid(...KEPT_LANES))
    .unique()
    .max(KEPT_LANES.length)
    .required(),
  after: Joi.date().iso(),
  before: Joi.date().iso(),
  ids: copiesField,
})

/** What was seen or said before a change goes on. */
export const confirmedField = Joi.object({ broad: Joi.boolean(), erases: Joi.number().integer().min(0).max(2_147_483_647) })
