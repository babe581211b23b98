import { Joi } from '#core'
import { REVIEWED_LANES } from '../db/lanes'
import { GROUPINGS } from './review-place'

/** Where, and grouped by what, as a query says it. */
export const placeFields = {
  lane: Joi.string()
    .valid(...REVIEWED_LANES)
    .default('quarantine'),
  quarantine: Joi.string().max(80),
  words: Joi.string().trim().max(200).allow(''),
  by: Joi.string()
    .valid(...GROUPINGS)
    .default('clause'),
}
