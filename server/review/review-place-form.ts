import { Joi } from '#core'
import { GROUPINGS, REVIEWED } from './review-place'

/** Where, and grouped by what, as a query says it. */
export const placeFields = {
  lane: Joi.string()
    .valid(...REVIEWED)
    .default('quarantine'),
  quarantine: Joi.string().max(80),
  by: Joi.string()
    .valid(...GROUPINGS)
    .default('clause'),
}
