import { Joi } from '#core'
import { MAX_FIXED } from '#core/limits'
import { COMPUTES, defineRoute } from '../access/route'
import { answerWithEvents } from '../platform/events'
import { fixesOf, type FixView } from '../review/fixes'

const body = Joi.object<{ ids: number[] }, true>({
  ids: Joi.array()
    .items(Joi.number().integer().positive().max(Number.MAX_SAFE_INTEGER))
    .min(1)
    .max(MAX_FIXED)
    .required()
    .messages({ 'array.min': 'select at least one message', 'array.max': `at most ${MAX_FIXED} messages at a time` }),
})
const query = Joi.object<{ follow?: string }>({ follow: Joi.string().allow('').max(5) })

// With ?follow what was found so far is told on the way; the order is known at the end.
export default defineRoute({ body, query, version: COMPUTES }, async ({ event, actor, body: { ids }, query: { follow } }) => {
  if (follow === undefined) return fixesOf(actor, ids)
  return answerWithEvents<FixView[]>(event, how => fixesOf(actor, ids, how))
})
