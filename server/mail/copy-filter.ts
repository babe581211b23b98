import { Joi, LANES } from '#core'

const lane = Joi.string().valid(...LANES)

/** Which copies are asked for. */
export const copyFilter = {
  words: Joi.string().allow('').max(500),
  lane: Joi.array().items(lane).single(),
  quarantine: Joi.string().allow('').max(80),
  sender: Joi.string().trim().allow('').max(320),
  recipient: Joi.string().trim().allow('').max(320),
  judgement: Joi.string().valid('wanted', 'unwanted', 'unjudged'),
  touchedBy: Joi.string().max(80),
  after: Joi.date().iso(),
  before: Joi.date().iso(),
}
