import { Joi, LANES } from '#core'

const lane = Joi.string().valid(...LANES)

/** Which copies are asked for. */
export const copyFilter = {
  words: Joi.string().allow('').max(500),
  lane: Joi.array().items(lane).max(LANES.length).single(),
  quarantine: Joi.string().allow('').max(80),
  sender: Joi.string().trim().allow('').max(320),
  recipient: Joi.string().trim().allow('').max(320),
  judgement: Joi.string().valid('wanted', 'unwanted', 'unmarked'),
  touchedBy: Joi.string().max(80),
  eventId: Joi.number().integer().positive().max(Number.MAX_SAFE_INTEGER),
  important: Joi.boolean(),
  tag: Joi.string().max(200),
  folder: Joi.string().max(200),
  filed: Joi.boolean(),
  after: Joi.date().iso(),
  before: Joi.date().iso(),
}

/** The same in a body: all copies that match, but for some. */
export const manyQuery = Joi.object({
  ...copyFilter,
  except: Joi.array()
    .items(Joi.number().integer().positive())
    .max(2000)
    .messages({ 'array.max': 'at most 2,000 messages can be deselected; narrow the filter instead' }),
})
