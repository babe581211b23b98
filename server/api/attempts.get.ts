import { setResponseHeader } from 'h3'
import { Joi } from '#core'
import type { Audience } from '#core/words'
import { defineRoute } from '../access/route'
import { attemptsAsText, listAttempts, type AttemptQuery } from '../intake/attempts'

const query = Joi.object<AttemptQuery & { as: 'json' | 'text', audience: Audience }, true>({
  sender: Joi.string().trim().allow('').max(320),
  recipient: Joi.string().trim().allow('').max(320),
  words: Joi.string().trim().allow('').max(200),
  after: Joi.date().iso(),
  before: Joi.date().iso(),
  cursor: Joi.number().integer().positive().max(Number.MAX_SAFE_INTEGER),
  limit: Joi.number().integer().min(1).max(200).default(50),
  as: Joi.string().valid('json', 'text').default('json'),
  // Of the text: for colleagues, or for the outside sender.
  audience: Joi.string().valid('internal', 'sender').default('internal'),
})

export default defineRoute({ query }, ({ event, actor, query: { as, audience, ...asked } }) => {
  if (as === 'json') return listAttempts(actor, asked)
  setResponseHeader(event, 'content-type', 'text/plain; charset=utf-8')
  return attemptsAsText(actor, asked, audience)
})
