import type { ObjectSchema } from 'joi'
import { Joi } from '#core'

/** Which copies an event is about, and in which version the actor saw them. */
export const manyCopies = {
  ids: Joi.array()
    .items(Joi.number().integer().positive())
    .min(1)
    .max(2000)
    .single()
    .messages({ 'array.min': 'select at least one message', 'array.max': 'at most 2,000 messages by number; use a filter for more' }),
  versions: Joi.alternatives(Joi.string().valid('any'), Joi.object().pattern(/^\d+$/, Joi.number().integer()).max(2000)),
}

/** Messages of which the actor has seen that they may be forged. */
export const confirmed = Joi.array().items(Joi.number().integer().positive()).max(2000).single()

/** With ids, the version of each is said; “any” is whatever they are by now, as “*” of If-Match is (RFC 9110 13.1.1). */
export const withVersions = <T extends ObjectSchema>(body: T): T =>
  body.with('ids', 'versions').without('query', 'versions').messages({
    'object.with': 'versions is missing: give the version of each message that you read, or “any”',
  }) as T
