import { Joi } from '#core'

/** Which copies an act is about, and in which version the asker saw them. */
export const manyCopies = {
  ids: Joi.array()
    .items(Joi.number().integer().positive())
    .min(1)
    .max(2000)
    .single()
    .messages({ 'array.min': 'choose at least one message', 'array.max': 'at most 2,000 messages at once; say which by a query' }),
  versions: Joi.object().pattern(/^\d+$/, Joi.number().integer()).max(2000),
}
